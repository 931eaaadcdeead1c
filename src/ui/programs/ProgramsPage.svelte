<!-- How other programs ask and answer: tokens, a few lines to begin with, and every endpoint, from the application itself. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { resolve } from '$app/paths';
  import type { TokenView } from '$contract/token';
  import { call, faultText } from '../api';
  import { useShell } from '../shell/shell.svelte';
  import { endpointsOf, type EndpointLine } from './endpoints';

  type Props = { tokens: TokenView[]; origin: string };
  let { tokens, origin }: Props = $props();
  const shell = useShell();

  let name = $state('');
  let may = $state<TokenView['may']>('read');
  let secret = $state<{ name: string; secret: string } | null>(null);
  let copied = $state(false);
  let find = $state('');
  let all = $state.raw<EndpointLine[]>([]);

  onMount(async () => {
    try {
      all = endpointsOf(await call('GET /api/openapi.json'));
    } catch (error) {
      shell.say(faultText(error));
    }
  });
  const when = (ms: number) => new Date(ms).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }); // prettier-ignore
  const words = $derived(find.toLowerCase().split(/\s+/).filter(Boolean));
  const shown = $derived(all.filter((e) => words.every((w) => `${e.method} ${e.path} ${e.says}`.toLowerCase().includes(w)))); // prettier-ignore

  async function make() {
    try {
      const made = await call('POST /api/tokens', { body: { name, may } });
      secret = { name, secret: made.secret };
      name = '';
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function take(token: TokenView) {
    try {
      await call('DELETE /api/tokens/[id]', { params: { id: token.id } });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function copy() {
    await navigator.clipboard.writeText(secret!.secret);
    copied = true;
    setTimeout(() => (copied = false), 1500);
  }
  const example = $derived(
    [
      `curl -H "Authorization: Bearer $FARRIER_TOKEN" ${origin}/api/takes`,
      `curl -H "Authorization: Bearer $FARRIER_TOKEN" -OJ "${origin}/api/takes/TAKE/export?format=parquet"`,
      `curl -H "Authorization: Bearer $FARRIER_TOKEN" -OJ "${origin}/api/spreadsheets/SHEET/file?takes=TAKE"`,
    ].join('\n'),
  );
</script>

<div class="page">
  <div class="page-head">
    <h1>For programs</h1>
    <span class="muted">Whatever the pages do, a program can ask for by address.</span>
  </div>
  <div class="columns">
    <section class="card pad" data-testid="tokens">
      <h2>Tokens</h2>
      {#if secret}
        <div class="secret" role="status">
          <p>The secret of “{secret.name}”. It is shown this once; only a hash of it is kept.</p>
          <p class="mono break" data-testid="secret">{secret.secret}</p>
          <p>
            <button class="dotted" onclick={() => void copy()}>{copied ? 'copied' : 'copy'}</button>
            <button class="dotted" onclick={() => (secret = null)}>I have it</button>
          </p>
        </div>
      {/if}
      <ul>
        {#each tokens as token (token.id)}
          <li>
            <strong>{token.name}</strong>
            <span class="muted"
              >may {token.may === 'read' ? 'only read' : 'do everything'} · made by {token.by} · {token.usedAt
                ? `last used ${when(token.usedAt)}`
                : 'never used'}</span
            >
            <button class="dotted" onclick={() => void take(token)}>take it back</button>
          </li>
        {:else}
          <li class="muted">None yet. A program sends its token as “Authorization: Bearer …”.</li>
        {/each}
      </ul>
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <label
          >A token for <input
            type="text"
            bind:value={name}
            maxlength="60"
            placeholder="name of the program"
            required
          /></label
        >
        <label
          >that may <select bind:value={may}
            ><option value="read">only read</option><option value="everything">do everything</option></select
          ></label
        >
        <button class="dotted" disabled={!name.trim()}>make it</button>
      </form>
      <h2>To begin with</h2>
      <pre class="mono">{example}</pre>
      <p class="muted">
        Scripts in Python and TypeScript that fetch samples as an Arrow stream and put a finding back are in
        docs/examples.
      </p>
    </section>
    <section class="card pad">
      <h2>Endpoints</h2>
      <p class="find">
        <input
          type="search"
          aria-label="Find an endpoint"
          placeholder="Find: takes, export, findings…"
          bind:value={find}
        />
        <span class="muted">{shown.length} of {all.length}</span>
        <a class="dotted" href={resolve('/api/openapi.json')}>OpenAPI 3.1</a>
      </p>
      <div class="list" data-testid="endpoints">
        {#each shown as one (one.key)}
          <details>
            <summary
              ><span class="mono method">{one.method}</span> <span class="mono">{one.path}</span>
              <span class="says">{one.says}</span></summary
            >
            <p class="muted">{one.need}</p>
            {#if one.values.length}
              <dl>
                {#each one.values as value (value.name)}
                  <dt class="mono">{value.name}{value.required ? '' : '?'}</dt>
                  <dd>{value.where}: {value.says}</dd>
                {/each}
              </dl>
            {/if}
            {#if one.body}<pre class="mono">{one.body}</pre>{/if}
            <p class="muted">Answers with {one.answer}.</p>
          </details>
        {/each}
      </div>
    </section>
  </div>
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.35fr);
    gap: var(--space-3);
    align-items: start;
  }
  .pad {
    padding: var(--space-4);
  }
  h2:not(:first-child) {
    margin-top: var(--space-5);
  }
  ul {
    list-style: none;
    margin: var(--space-2) 0;
    padding: 0;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
    align-items: baseline;
    padding: var(--space-2) 0;
    border-top: 1px solid var(--hair);
  }
  form {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2) var(--space-3);
    align-items: baseline;
  }
  .secret {
    border: 1px solid var(--plum);
    border-radius: var(--radius);
    padding: var(--space-2) var(--space-3);
    margin-top: var(--space-2);
  }
  .secret p {
    margin: 0 0 var(--space-1);
    display: flex;
    gap: var(--space-3);
  }
  .break {
    overflow-wrap: anywhere;
  }
  pre {
    background: var(--stone);
    border-radius: var(--radius);
    padding: var(--space-2) var(--space-3);
    white-space: pre-wrap;
    overflow-wrap: anywhere;
    font-size: var(--type-small);
    margin: var(--space-2) 0;
  }
  .find {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    margin: var(--space-2) 0;
  }
  .find input {
    flex: 1;
  }
  .list {
    max-height: 62vh;
    overflow: auto;
    font-size: var(--type-small);
  }
  details {
    border-top: 1px solid var(--hair);
    padding: var(--space-1) 0;
  }
  summary {
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  .method {
    display: inline-block;
    min-width: 4.6rem;
    color: var(--plum);
  }
  .says {
    display: block;
    padding-left: 5.4rem;
    color: var(--muted);
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 var(--space-3);
    margin: var(--space-1) 0 var(--space-1) 5.4rem;
  }
  dd {
    margin: 0;
  }
  details p,
  details pre {
    margin: var(--space-1) 0 var(--space-1) 5.4rem;
  }
</style>
