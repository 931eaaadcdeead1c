<!-- Values of what is drawn, at round steps over the window that is looked at. -->
<script lang="ts">
  import { clockTicks } from '$core/figures/clock';
  import { fixed } from '$core/readings';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';

  type Props = { insp: Inspection };
  let { insp }: Props = $props();

  /** As many rows as are asked for at once. */
  const ROWS = 30;
  const rows = $derived(clockTicks(insp.scale, insp.window[0], insp.window[1], ROWS).slice(0, 40));
  const columns = $derived(
    insp.ordered.flatMap((take) =>
      insp.names.flatMap((name) => {
        const signal = signalOf(take, name);
        return signal ? [{ take, signal }] : [];
      }),
    ),
  );
  let values = $state.raw<(number | null)[][][]>([]);
  let fault = $state<FaultText | null>(null);
  const several = $derived(insp.takes.length > 1);

  $effect(() => {
    const asks = insp.ordered.map((take) => ({
      take: take.head.id,
      signals: columns.filter((c) => c.take === take).map((c) => c.signal.id),
      s: rows.map((r) => r.value + insp.zero(take.head.id)),
    }));
    const { recorded } = insp;
    let wanted = true;
    const timer = setTimeout(async () => {
      try {
        const got = await call('POST /api/readings', { body: { asks, recorded } });
        if (wanted) [values, fault] = [got, null];
      } catch (error) {
        if (wanted) fault = faultText(error);
      }
    }, 80);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  });
  /** The value of a column in a row. */
  function value(row: number, { take, signal }: (typeof columns)[number]): string {
    const k = insp.ordered.indexOf(take);
    const own = columns.filter((c) => c.take === take);
    const found = values[k]?.[row]?.[own.findIndex((c) => c.signal === signal)];
    return found === null || found === undefined ? '–' : fixed(found, signal.decimals);
  }
</script>

<div class="values" data-testid="values">
  {#if fault}<FaultNote {fault} />{/if}
  <table class="plain">
    <thead>
      <tr
        ><th>Time</th>{#each columns as { take, signal } (`${take.head.id} ${signal.id}`)}<th class="num"
            >{several ? `${take.head.name}: ` : ''}{signal.name}, {signal.unit}</th
          >{/each}</tr
      >
    </thead>
    <tbody>
      {#each rows as row, k (row.value)}
        <tr
          ><td class="mono">{row.text}</td
          >{#each columns as column (`${column.take.head.id} ${column.signal.id}`)}<td class="num"
              >{value(k, column)}</td
            >{/each}</tr
        >
      {/each}
    </tbody>
  </table>
</div>

<style>
  .values {
    flex: 0 1 34%;
    min-height: 80px;
    overflow: auto;
    border-top: 1px solid var(--hair);
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  td,
  th {
    padding: 0 var(--space-2);
    font-size: var(--type-small);
  }
</style>
