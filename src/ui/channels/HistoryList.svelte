<!-- Changes of the set-up that stand: since a take, and back to any of them. -->
<script lang="ts">
  import type { Change } from '$contract/api/setup';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import type { Overview } from '$contract/overview';
  import TakeSelect from '../take/TakeSelect.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { takes: Overview['takes'] };
  let { takes }: Props = $props();
  const shell = useShell();
  let since = $state('');
  let changes = $state.raw<Change[]>([]);
  let fault = $state<FaultText | null>(null);
  let asked = $state<number | null>(null);

  const load = (take: string) =>
    call('GET /api/history', { query: { take: take || undefined } }).then(
      (found) => (changes = found),
      (error) => (fault = faultText(error)),
    );
  $effect(() => void load(since));
  async function back(to: number) {
    asked = null;
    try {
      await call('POST /api/history', { body: { to } });
      await shell.refresh();
      await load(since);
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<label class="since"
  >Changes since <TakeSelect {takes} bind:value={since} label="Changes since" none="the job began" /></label
>
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
<ol>
  {#each changes as change, k (change.id)}
    <li>
      <span class="mono muted"
        >{new Date(change.at).toLocaleString('en-GB', { dateStyle: 'short', timeStyle: 'short' })}</span
      >
      <span class="says">{change.says}</span>
      <span class="muted">{change.by}</span>
      {#if asked === change.id}
        <button class="dotted red" onclick={() => void back(change.id)}
          >undo the {k} later change{k === 1 ? '' : 's'}</button
        >
      {:else}
        <button class="dotted" disabled={k === 0} onclick={() => (asked = change.id)}
          >{k === 0 ? 'as it is now' : 'back to here'}</button
        >
      {/if}
    </li>
  {:else}
    <li class="muted">Nothing was changed{since ? ' since' : ''}.</li>
  {/each}
</ol>

<style>
  ol {
    list-style: none;
    margin: var(--space-2) 0 0;
    padding: 0;
    max-height: 440px;
    overflow: auto;
    font-size: var(--type-small);
  }
  li {
    display: grid;
    grid-template-columns: 120px 1fr 60px 130px;
    gap: var(--space-3);
    padding: var(--space-1) 0;
    border-bottom: 1px solid var(--hair);
    align-items: baseline;
  }
  li button {
    justify-self: end;
  }
  .red {
    color: var(--red);
  }
</style>
