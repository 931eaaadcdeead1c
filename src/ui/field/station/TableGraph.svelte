<!-- A fetched table: each column on a scale of its own, one cursor and one part for all, gaps as gaps, the rows beside it. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { Figure } from '$core/figures/figure';
  import { readingText } from '$core/readings';
  import type { TableView } from '$contract/station';
  import type { TakeView } from '$contract/take';
  import { call, faultText, type FaultText } from '../../api';
  import FaultNote from '../../kit/FaultNote.svelte';
  import FigureView from '../../plot/FigureView.svelte';
  import { fetchWindow, type WindowPart } from '../../take/window';
  import { numbersText } from '../../inspect/address';
  import { momentText } from './words';

  type Props = {
    table: TableView;
    /** Numbers of takes of the same table under former programmes. */
    earlier: number[];
    night: boolean;
  };
  let { table, earlier, night }: Props = $props();

  const STRETCHES = 700;
  const ROWS = 40;
  let take = $state.raw<TakeView | null>(null);
  let fault = $state<FaultText | null>(null);
  let chosen = $state<string[] | null>(null);
  let part = $state.raw<[number, number] | null>(null);
  let touched = $state<number | null>(null);
  let parts = $state.raw<WindowPart[]>([]);
  let rows = $state.raw<{ ms: number; values: (number | null)[] }[]>([]);
  let asTable = $state(false);
  /** Whether columns that are not drawn are offered. */
  let more = $state(false);

  /** What is told again each second is no other for it. */
  const told = $derived(JSON.stringify(table.columns));
  const columns = $derived(JSON.parse(told) as TableView['columns']);
  /** A table that has grown is read anew. */
  const stamp = $derived(`${table.takeId} ${table.fetched}`);
  $effect(() => {
    void stamp;
    const { takeId } = table;
    if (!takeId) return void (take = null);
    call('GET /api/takes/[id]', { params: { id: takeId } })
      .then((got) => ((take = got), (fault = null)))
      .catch((error) => (fault = faultText(error)));
  });
  const startMs = $derived(take ? Number(BigInt(take.head.startNs) / 1_000_000n) : 0);
  const names = $derived(chosen?.filter((n) => columns.some((c) => c.name === n)) ?? columns.map((c) => c.name).filter((n) => !n.endsWith(', after')).slice(0, 3)); // prettier-ignore
  const signals = $derived(take ? names.flatMap((n) => take!.signals.filter((s) => s.name === n)) : []);
  /** Rows stand at even times; a margin keeps the last one off the edge. */
  const stepMs = $derived(table.everyS * 1000 || 1000);
  const DAY = 86_400_000;
  const SPANS = [
    ['a day', DAY],
    ['a week', 7 * DAY],
    ['a month', 30 * DAY],
  ] as const;
  const whole = $derived<[number, number]>([startMs - stepMs / 2, startMs + Math.max(1, (take?.durationS ?? 0) * 1000 - stepMs / 2)]); // prettier-ignore
  /** The newest of it: of what is longer than a month the last week, unless something else is looked at. */
  let span = $state<number | 'all' | null>(null);
  const last = $derived(span ?? (whole[1] - whole[0] > 30 * DAY ? 7 * DAY : 'all'));
  const ends = $derived<[number, number]>(part ?? (last === 'all' || last >= whole[1] - whole[0] ? whole : [whole[1] - last, whole[1]])); // prettier-ignore
  const lookAt = (next: number | 'all') => ([part, span] = [null, next]);
  const toggle = (name: string) => (chosen = names.includes(name) ? names.filter((n) => n !== name) : columns.map((c) => c.name).filter((n) => n === name || names.includes(n))); // prettier-ignore

  $effect(() => {
    if (!take || signals.length === 0) return void (parts = []);
    const stop = new AbortController();
    const [from, to] = ends.map((ms) => Math.min(take!.durationS, Math.max(0, (ms - startMs) / 1000)));
    fetchWindow(take.head.id, signals.map((s) => s.id), from, to, STRETCHES, stop.signal) // prettier-ignore
      .then((got) => (parts = got))
      .catch((error) => !stop.signal.aborted && (fault = faultText(error)));
    return () => stop.abort();
  });
  /** The last rows of what is looked at. */
  $effect(() => {
    if (!asTable || !take || signals.length === 0) return;
    const last = Math.floor((ends[1] - startMs) / stepMs);
    const first = Math.max(0, Math.ceil((ends[0] - startMs) / stepMs), last - ROWS + 1);
    const s = Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => ((first + i) * stepMs) / 1000);
    let wanted = true;
    call('POST /api/readings', { body: { asks: [{ take: take.head.id, signals: signals.map((x) => x.id), s }], recorded: false } }) // prettier-ignore
      .then(
        (got) =>
          wanted &&
          (rows = s.map((at, i) => ({ ms: startMs + at * 1000, values: got[0]?.[i] ?? [] })).reverse()),
      ) // prettier-ignore
      .catch((error) => wanted && (fault = faultText(error)));
    return () => (wanted = false);
  });

  const figures = $derived(
    signals.flatMap((signal): Figure[] => {
      const found = parts.find((p) => p.signal === signal.id);
      if (!found) return [];
      const k = columns.findIndex((c) => c.name === signal.name);
      const x = Float64Array.from(found.times, (t) => startMs + t * 1000);
      return [
        {
          title: signal.name,
          x: { label: '', unit: '', scale: 'calendar', min: ends[0], max: ends[1] },
          y: { label: signal.name, unit: signal.unit, scale: 'linear' },
          marks: [
            { mark: 'band', name: signal.name, unit: signal.unit, colour: k, solid: true, x, low: found.min, high: found.max }, // prettier-ignore
          ],
        },
      ];
    }),
  );
  const gaps = $derived(take?.gaps ?? []);
</script>

<section class="card" data-testid="graph">
  <header>
    <h2>{table.name}</h2>
    <span class="muted"
      >{table.fetched} rows{gaps.length
        ? `, ${gaps.length} ${gaps.length === 1 ? 'gap' : 'gaps'}: ${gaps.at(-1)!.reason}`
        : ''}</span
    >
    <span class="acts">
      {#each SPANS.filter(([, ms]) => ms < whole[1] - whole[0]) as [name, ms] (name)}<button
          class="span"
          aria-pressed={!part && last === ms}
          onclick={() => lookAt(ms)}>{name}</button
        >{/each}
      <button class="span" aria-pressed={!part && last === 'all'} onclick={() => lookAt('all')}>all</button>
      <button class="dotted" aria-pressed={asTable} onclick={() => (asTable = !asTable)}
        >{asTable ? 'without rows' : 'rows beside it'}</button
      >
      {#if table.takeId}<a class="dotted" href={resolve(`/inspect/${table.takeId}`)}>inspect</a>{/if}
      {#if table.takeId && earlier.length}<a
          class="dotted"
          href={resolve(`/inspect/${table.takeId}?with=${numbersText(earlier.slice(0, 3))}`)}
          >over the former</a
        >{/if}
    </span>
  </header>
  <p class="columns">
    {#each columns.filter((c) => more || names.includes(c.name)) as c (c.name)}<button
        class="chip"
        aria-pressed={names.includes(c.name)}
        onclick={() => toggle(c.name)}>{c.name}</button
      >{/each}
    {#if columns.length > names.length || more}<button class="dotted" onclick={() => (more = !more)}
        >{more ? 'these' : 'add a column'}</button
      >{/if}
  </p>
  {#if fault}<FaultNote {fault} />{/if}
  <div class="body" class:beside={asTable}>
    <div class="figures">
      {#each figures as figure (figure.title)}
        <div class="figure">
          <FigureView
            {figure}
            {night}
            {touched}
            ontouch={(place) => (touched = place)}
            onpart={(next) => (part = next)}
          />
        </div>
      {:else}
        <p class="muted none">
          {table.takeId
            ? 'Choose a column.'
            : table.end === 0
              ? 'It has no row yet.'
              : 'Nothing of it is fetched yet.'}
        </p>
      {/each}
    </div>
    {#if asTable}
      <div class="rows">
        <table>
          <thead
            ><tr
              ><th>Time, UTC</th>{#each signals as s (s.id)}<th title={s.name}
                  >{s.name}{s.unit ? `, ${s.unit}` : ''}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each rows as row (row.ms)}
              <tr class:touched={touched !== null && Math.abs(row.ms - touched) < stepMs / 2}>
                <td class="mono">{momentText(row.ms)}</td>
                {#each row.values as v, k (k)}<td class="mono num"
                    >{v === null ? '–' : readingText(v, { digits: 4 })}</td
                  >{/each}
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </div>
</section>

<style>
  section {
    padding: var(--space-3) var(--space-4);
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  header .muted {
    font-size: var(--type-small);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .acts {
    margin-left: auto;
    display: flex;
    align-items: baseline;
    gap: var(--space-3);
    white-space: nowrap;
  }
  .span {
    color: var(--muted);
    font-size: var(--type-small);
    min-height: 24px;
  }
  .span[aria-pressed='true'] {
    color: var(--plum);
    font-weight: 600;
  }
  .columns {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1);
    margin: var(--space-1) 0 var(--space-2);
  }
  .chip {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 0 var(--space-2);
    min-height: 24px;
    font-size: var(--type-small);
    color: var(--muted);
  }
  .chip[aria-pressed='true'] {
    background: var(--tint);
    color: var(--ink);
    border-color: var(--plum);
  }
  .body {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: var(--space-3);
    min-height: 0;
  }
  .body.beside {
    grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  }
  .figure {
    height: 11rem;
    display: flex;
    flex-direction: column;
  }
  .none {
    padding: var(--space-4) 0;
  }
  .rows {
    overflow: auto;
    max-height: 27rem;
  }
  .rows table {
    border-collapse: collapse;
    font-size: var(--type-small);
    width: 100%;
  }
  .rows th {
    position: sticky;
    top: 0;
    background: var(--card);
    text-align: left;
    font-weight: 400;
    color: var(--muted);
    padding-right: var(--space-2);
  }
  .rows td {
    padding: var(--space-half) var(--space-2) var(--space-half) 0;
    border-top: 1px solid var(--hair);
    white-space: nowrap;
  }
  .num {
    text-align: right;
  }
  tr.touched td {
    background: var(--tint);
  }
</style>
