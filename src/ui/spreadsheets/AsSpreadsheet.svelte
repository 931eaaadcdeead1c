<!-- Takes as a spreadsheet: one press writes it the first way that is kept; the others are offered beside it. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { BodyIn } from '$contract/api';
  import type { SpreadsheetView } from '$contract/spreadsheet';
  import { call, faultText } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    of: Pick<Extract<BodyIn<'POST /api/outgoing'>, { what: 'spreadsheet' }>, 'takes' | 'series'>;
    /** What stands there until the file has its name. */
    name: string;
  };
  let { of, name }: Props = $props();
  const shell = useShell();
  let anchor = $state<HTMLElement | null>(null);
  let kept = $state.raw<SpreadsheetView[]>([]);

  function write(spreadsheet?: string) {
    anchor = null;
    void shell.files.make({ what: 'spreadsheet', ...of, ...(spreadsheet && { spreadsheet }) }, name);
  }
  async function offer(at: HTMLElement) {
    try {
      kept = await call('GET /api/spreadsheets');
      anchor = at;
    } catch (error) {
      shell.say(faultText(error));
    }
  }
</script>

<span class="pair">
  <button class="dotted" onclick={() => write()}>spreadsheet</button>
  <button class="dotted" aria-label="Another spreadsheet" onclick={(e) => void offer(e.currentTarget)}
    >another…</button
  >
</span>
{#if anchor}
  <FloatBox {anchor} label="Spreadsheets" close={() => (anchor = null)}>
    <ul>
      {#each kept as one (one.id)}
        <li><button class="dotted" onclick={() => write(one.id)}>{one.name}</button></li>
      {:else}
        <li class="muted">None is kept yet: it is written in the usual way.</li>
      {/each}
      <li><a class="dotted" href={resolve('/report/spreadsheets')}>How they are written</a></li>
    </ul>
  </FloatBox>
{/if}

<style>
  .pair {
    display: inline-flex;
    gap: var(--space-2);
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    display: grid;
    gap: var(--space-2);
  }
</style>
