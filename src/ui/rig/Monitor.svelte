<!-- What a unit hears, as it comes: lines, frames, messages. With the assistant that takes lines apart, and a field to send. -->
<script lang="ts">
  import type { KnownUnit } from '$contract/engine';
  import { findUnitKind } from '$contract/units/kinds';
  import type { Heard, UnitState } from '$contract/unit';
  import type { LineProposals, ReadProposal } from '$core/lines/split';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { unit: UnitState; known: KnownUnit };
  let { unit, known }: Props = $props();
  const shell = useShell();
  // A text: what depends on it does not begin anew with each status of the unit.
  const serial = $derived(unit.description.serial);
  const params = $derived({ serial });
  let heard = $state.raw<Heard[]>([]);
  let held = $state(false);
  let fault = $state<FaultText | null>(null);
  let proposals = $state.raw<LineProposals | null>(null);
  let proposal = $state.raw<ReadProposal | null>(null);
  let names = $state<Record<string, string>>({});
  let wanted = $state<string[]>([]);
  let text = $state('');
  const lines = $derived(findUnitKind(known.kind)?.hears === 'Lines');

  $effect(() => {
    const of = params;
    let stopped = false;
    const look = async () => {
      if (document.hidden || held) return;
      try {
        const got = await call('GET /api/units/[serial]/heard', { params: of });
        if (!stopped) heard = got;
      } catch {
        // the unit's state says why
      }
    };
    void look();
    const timer = setInterval(() => void look(), 500);
    return () => {
      stopped = true;
      clearInterval(timer);
    };
  });
  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  const propose = () =>
    attempt(async () => {
      proposals = await call('GET /api/units/[serial]/propose', { params });
      choose(proposals.choices[0]);
    });
  function choose(found: ReadProposal) {
    proposal = found;
    wanted = found.fields.map((f) => f.field);
    names = Object.fromEntries(found.fields.map((f) => [f.field, f.name]));
  }
  const takeProposal = () =>
    attempt(async () => {
      const { split, fields } = proposal!;
      await call('PATCH /api/units/[serial]', {
        params,
        body: {
          settings: { how: split.how, separator: split.separator, prefix: split.prefix },
          sources: fields
            .filter((f) => wanted.includes(f.field))
            .map((f) => ({ name: names[f.field], field: f.field })),
        },
      });
      proposal = null;
      await shell.refresh();
    });
  const send = () =>
    attempt(async () => {
      await call('POST /api/units/[serial]/heard', { params, body: { text } });
      text = '';
    });
  const sign = (s: string) => (s === '\t' ? 'a tab' : s === ' ' ? 'a blank' : `“${s}”`);
</script>

<div class="head">
  <h3>
    {findUnitKind(known.kind)?.hears ?? 'Frames'} as they come
  </h3>
  <button class="dotted" aria-pressed={held} onclick={() => (held = !held)}>{held ? 'go on' : 'hold'}</button>
  {#if lines}<Button
      size="xs"
      color="alternative"
      disabled={heard.length === 0}
      onclick={() => void propose()}>Propose how to take them apart</Button
    >{/if}
</div>
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if proposal}
  <div class="proposal">
    <table class="plain choices">
      <thead>
        <tr>
          <th>Taken apart</th>
          {#each proposals?.lines.slice(-3) ?? [] as line, k (k)}<th class="mono line">{line}</th>{/each}
        </tr>
      </thead>
      <tbody>
        {#each proposals?.choices ?? [] as choice, k (k)}
          <tr class:chosen={choice === proposal}>
            <td
              ><label
                ><input
                  type="radio"
                  name="split"
                  checked={choice === proposal}
                  onchange={() => choose(choice)}
                />
                {choice.split.how}{choice.split.how === 'as JSON'
                  ? ''
                  : `, ${sign(choice.split.separator)} between fields`}{choice.split.prefix
                  ? `, behind ${sign(choice.split.prefix)}`
                  : ''}; fits {Math.round(choice.share * 100)} %</label
              ></td
            >
            {#each choice.rows.slice(-3) as row, r (r)}<td class="mono"
                >{row.map((v) => v ?? '–').join('  ')}</td
              >{/each}
          </tr>
        {/each}
      </tbody>
    </table>
    {#each proposal.fields as f (f.field)}
      <label
        ><input type="checkbox" bind:group={wanted} value={f.field} />
        <span class="mono muted">{f.field}</span>
        <input type="text" bind:value={names[f.field]} aria-label="Name of field {f.field}" />
        <span class="mono">{f.example}</span></label
      >
    {/each}
    <Button size="sm" disabled={wanted.length === 0} onclick={() => void takeProposal()}>Take it</Button>
    <button class="dotted" onclick={() => (proposal = null)}>leave it</button>
  </div>
{/if}
<div class="lines mono" role="log" aria-label="What was heard">
  {#each heard.slice(-40).reverse() as line, k (k)}
    <div class:bad={!line.ok}>
      <span class="muted">{new Date(line.timeMs).toISOString().slice(11, 23)}</span>
      <span class="text">{line.text}</span>
      {#if line.says}<span class="muted says">{line.ok ? '' : '◆ '}{line.says}</span>{/if}
    </div>
  {:else}
    <p class="muted">Nothing has come yet.</p>
  {/each}
</div>
{#if unit.description.abilities.includes('send')}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void send();
    }}
  >
    <input
      type="text"
      class="mono"
      bind:value={text}
      placeholder={lines ? 'a line to send' : 'a frame to send, such as 2A0#E80301'}
      aria-label="To send"
    />
    <Button size="xs" type="submit" color="alternative" disabled={!text}>Send</Button>
  </form>
{/if}

<style>
  .choices .line {
    max-width: 150px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-weight: 400;
  }
  .choices .chosen {
    background: var(--tint);
  }
  .head {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-bottom: var(--space-1);
  }
  h3 {
    font-size: var(--type-body);
    font-weight: 650;
    margin-right: auto;
  }
  .lines {
    font-size: var(--type-small);
    max-height: 230px;
    min-height: 60px;
    overflow: auto;
    background: var(--stone);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-2);
  }
  .lines div {
    display: flex;
    gap: var(--space-3);
    white-space: nowrap;
  }
  .lines .text {
    white-space: pre;
  }
  .lines .says {
    font-family: var(--font-sans);
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .bad .text,
  .bad .says {
    color: var(--red);
  }
  .proposal {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-2) var(--space-3);
    margin-bottom: var(--space-2);
    display: flex;
    flex-direction: column;
    gap: var(--space-1);
    align-items: flex-start;
  }
  .proposal label {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  input[type='text'] {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
  }
  form {
    display: flex;
    gap: var(--space-2);
    margin-top: var(--space-2);
  }
  form input {
    flex: 1;
  }
</style>
