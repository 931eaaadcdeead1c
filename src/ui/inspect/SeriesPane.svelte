<!-- A series: takes as rows, results as columns, the statistics of those that count. Bound to a filter, so a new take joins by itself. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import type { SeriesRow } from '$contract/series';
  import { faultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import AsSpreadsheet from '../spreadsheets/AsSpreadsheet.svelte';
  import ColumnBox from './ColumnBox.svelte';
  import type { Inspection } from './inspection.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { printSeries } from './series-pdf';
  import { SeriesDesk, STATISTICS } from './series-desk.svelte';
  import type { TakeList } from './take-list.svelte';

  type Props = {
    insp: Inspection;
    list: TakeList;
    /** Takes that do not count, told to the page. */
    onout: (out: Map<string, string>) => void;
    lay: (ids: string[], front?: string) => Promise<unknown>;
    /** Counts up whenever takes or what is in them changed. */
    changes: number;
  };
  let { insp, list, onout, lay, changes }: Props = $props();

  const shell = useShell();
  // svelte-ignore state_referenced_locally
  const desk = new SeriesDesk(insp, list, onout);
  const table = $derived(desk.table);
  let column = $state<{ at: number | null; anchor: HTMLElement } | null>(null);
  let judging = $state<{ row: SeriesRow; reason: string } | null>(null);
  let copied = $state(false);
  let more = $state(false);

  const wanted = $derived(`${insp.series} ${changes}`);
  $effect(() => {
    void wanted;
    void desk.load();
  });
  async function word(row: SeriesRow, reason: string) {
    if (await desk.judge(row.take, !row.counts, reason)) judging = null;
  }
  let printing = $state(false);
  async function print() {
    printing = true;
    try {
      await printSeries(table!, shell.files);
    } catch (error) {
      desk.fault = faultText(error);
    } finally {
      printing = false;
    }
  }
  async function copy() {
    await desk.copy();
    copied = true;
    setTimeout(() => (copied = false), 1500);
  }
  const text = (value: number | string | null, c: number) => desk.text(value, c);
  const known = (v: number | undefined, c: number) =>
    v === undefined || !Number.isFinite(v) ? '–' : text(v, c);
  const isWords = (c: number) => table!.columns[c].statistics === null;
  const counting = $derived(table?.rows.filter((r) => r.counts).length ?? 0);
</script>

<section class="card series" aria-label="Series">
  <div class="bar">
    {#if table}
      {#key table.id}<input
          class="title"
          value={table.name}
          aria-label="Name of the series"
          maxlength="80"
          onchange={(e) => desk.rename(e.currentTarget.value)}
        />{/key}
      {#if desk.all.length > 1}
        <select aria-label="Series" value={table.id} onchange={(e) => desk.choose(e.currentTarget.value)}>
          {#each desk.all as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
        </select>
      {/if}
      <span class="muted says" title={table.says}>{table.rows.length} takes where {table.says}</span>
      <button
        class="dotted"
        title="The series holds what the drawer shows now, and every new take that is like that"
        onclick={() => void desk.hold()}>hold what the drawer shows</button
      >
      <button class="dotted" onclick={() => void lay(table!.rows.slice(0, 50).map((r) => r.take))}
        >lay over each other</button
      >
      <button class="dotted" onclick={() => void copy()}>{copied ? 'copied' : 'copy'}</button>
      <a class="dotted" href={resolve(`/api/series/${table.id}/export`)} download>export</a>
      <AsSpreadsheet of={{ series: table.id }} name={table.name} />
      <button class="dotted" disabled={printing} onclick={() => void print()}
        >{printing ? 'printing…' : 'PDF'}</button
      >
      <button class="dotted" onclick={() => void desk.remove()}>take away</button>
    {:else if !desk.busy}<span class="muted"
        >Takes as rows, results as columns: what the drawer shows becomes a series, and a new take like these
        joins by itself.</span
      >{/if}
    <button class="dotted" onclick={() => void desk.make()}>new series</button>
  </div>
  {#if desk.fault}<FaultNote fault={desk.fault} onclose={() => (desk.fault = null)} />{/if}
  {#if table}
    <div class="scroll">
      <table class="plain" data-testid="series">
        <thead>
          <tr>
            <th>Take</th>
            {#each table.columns as head, c (c)}
              <th class:num={!isWords(c)}
                ><button title={head.says} onclick={(e) => (column = { at: c, anchor: e.currentTarget })}
                  >{head.title}{head.unit && head.unit !== '1' ? `, ${head.unit}` : ''}</button
                ></th
              >
            {/each}
            <th
              ><button class="dotted" onclick={(e) => (column = { at: null, anchor: e.currentTarget })}
                >add a column</button
              ></th
            >
            <th>Counts</th>
          </tr>
        </thead>
        <tbody>
          {#each table.rows as row (row.take)}
            <tr class:front={row.take === insp.front} class:out={!row.counts} data-take={row.name}>
              <td
                ><button
                  class="of"
                  onclick={() =>
                    insp.takes.some((t) => t.head.id === row.take)
                      ? insp.standOut(row.take)
                      : void lay([row.take], row.take)}>{row.name}</button
                ></td
              >
              {#each row.cells as cell, c (c)}
                {@const hint = table.columns[c].hint}
                <td class:num={!isWords(c)} title={cell.fault ?? ''}
                  >{#if cell.fault}<span class="muted">–</span>{:else}<button
                      disabled={cell.atS === null}
                      onclick={() =>
                        row.take === insp.front && insp.place(insp.chosen, cell.atS! - insp.zero(row.take))}
                      >{text(cell.value, c)}</button
                    >{/if}{#if hint?.take === row.take}<span
                      class="hint"
                      title="It lies {readingText(hint.distance, {
                        digits: 3,
                      })} s from the mean; by chance one of a series does in 1 of 20 beyond {readingText(
                        hint.critical5,
                        { digits: 3 },
                      )} (Grubbs). A hint where to look, no judgement.">?</span
                    >{/if}</td
                >
              {/each}
              <td></td>
              <td class="judged">
                {#if judging?.row.take === row.take}
                  <form
                    onsubmit={(e) => {
                      e.preventDefault();
                      void word(row, judging!.reason);
                    }}
                  >
                    <!-- svelte-ignore a11y_autofocus -->
                    <input
                      autofocus
                      bind:value={judging.reason}
                      maxlength="400"
                      placeholder={row.counts ? 'why it does not count' : 'why it counts'}
                      aria-label="Reason"
                      onkeydown={(e) => e.key === 'Escape' && (judging = null)}
                    />
                    <button class="dotted">{row.counts ? 'out' : 'in'}</button>
                  </form>
                {:else}
                  <button
                    class="dotted"
                    title={row.words
                      .map((w) => `${w.counts ? 'in' : 'out'}${w.reason ? `: ${w.reason}` : ''} (${w.by})`)
                      .join('\n')}
                    onclick={() => (judging = { row, reason: '' })}>{row.counts ? 'in' : 'out'}</button
                  >{row.reason ? `: ${row.reason}` : ''}
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
        <tfoot>
          <tr>
            <td><strong>{counting} that count</strong></td>
            {#each table.columns as head, c (c)}
              <td class:num={!isWords(c)} data-column={head.title}
                >{#if head.statistics}<strong
                    >{known(head.statistics.mean, c)} ± {known(head.statistics.standardDeviation, c)}</strong
                  >{/if}</td
              >
            {/each}
            <td></td><td
              ><button class="dotted" onclick={() => (more = !more)}>mean ± s{more ? '' : ' …'}</button></td
            >
          </tr>
          {#if more}
            {#each STATISTICS as [key, label] (key)}
              <tr>
                <td class="muted">{label}</td>
                {#each table.columns as head, c (c)}<td class="num" data-statistic={key}
                    >{head.statistics
                      ? key === 'variation'
                        ? readingText(head.statistics.variation, { digits: 3 })
                        : known(head.statistics[key], c)
                      : ''}</td
                  >{/each}
                <td></td><td></td>
              </tr>
            {/each}
          {/if}
        </tfoot>
      </table>
    </div>
  {/if}
</section>
{#if column && table}
  <ColumnBox
    column={column.at === null ? null : table.series.columns[column.at]}
    anchor={column.anchor}
    channels={list.offered.channels}
    facts={Object.keys(list.offered.facts)}
    close={() => (column = null)}
    put={(next) => {
      const { at } = column!;
      column = null;
      desk.put(at, next);
    }}
  />
{/if}

<style>
  .series {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    flex: 1;
  }
  .bar {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    padding: var(--space-1) var(--space-3);
    font-size: var(--type-small);
    white-space: nowrap;
  }
  .says {
    overflow: hidden;
    text-overflow: ellipsis;
    margin-right: auto;
    min-width: 60px;
  }
  .title {
    font-weight: 650;
    border: 0;
    border-bottom: 1px dotted var(--line);
    background: transparent;
    padding: 0;
    width: 130px;
    font-size: var(--type-body);
  }
  .bar select {
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-half) var(--space-6) var(--space-half) var(--space-2);
  }
  .scroll {
    overflow: auto;
    min-height: 0;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 1;
  }
  td,
  th {
    padding: 0 var(--space-2);
    height: 26px;
    vertical-align: middle;
    line-height: 1.2;
    white-space: nowrap;
  }
  td button,
  th button {
    min-height: 24px;
    vertical-align: middle;
  }
  tfoot td {
    position: sticky;
    bottom: 0;
    background: var(--card);
    border-top: 1px solid var(--line);
  }
  .front {
    background: var(--tint);
  }
  .out {
    color: var(--muted);
  }
  .judged {
    max-width: 260px;
    overflow: hidden;
    text-overflow: ellipsis;
    color: var(--ink);
  }
  .out .judged {
    color: var(--ochre);
  }
  .judged form {
    display: flex;
    gap: var(--space-2);
  }
  .judged input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: 0 var(--space-2);
    font-size: var(--type-small);
  }
  .of {
    font-weight: 600;
    max-width: 180px;
    overflow: hidden;
    text-overflow: ellipsis;
    min-height: 24px;
  }
  td button:disabled {
    color: inherit;
  }
  .hint {
    margin-left: var(--space-1);
    color: var(--ochre);
    font-weight: 700;
    cursor: help;
  }
</style>
