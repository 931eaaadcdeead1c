<script lang="ts">
  import { columnTitle, rowsOf, type Cell, type Table } from '$core/figures/table';
  import { cellText } from './table-text';

  type Props = {
    table: Table;
    most?: number;
    /** What is touched in a drawing: the rows that begin with it are marked. */
    touched?: string | null;
    ontouch?: (first: string | null) => void;
  };
  let { table, most = 400, touched = null, ontouch }: Props = $props();

  /** The column it is sorted by, and whether the largest stand first; as it was computed where none is. */
  let by = $state<{ column: number; down: boolean } | null>(null);
  $effect(() => {
    void table.title;
    by = null;
  });
  const SORTED_AT_MOST = 100_000;
  const canSort = $derived(table.length > 1 && table.length <= SORTED_AT_MOST);
  function sort(column: number) {
    if (by?.column !== column) by = { column, down: table.columns[column].numeric };
    else if (by.down === table.columns[column].numeric) by = { column, down: !by.down };
    else by = null;
  }
  /** What has no value stands last, whichever way. */
  function order(a: Cell, b: Cell, down: boolean): number {
    if (a === null || b === null) return Number(a === null) - Number(b === null);
    const first =
      typeof a === 'number' && typeof b === 'number'
        ? a - b
        : String(a).localeCompare(String(b), 'en', { numeric: true });
    return down ? -first : first;
  }
  const shown = $derived.by(() => {
    if (!by || !canSort) return rowsOf(table, 0, most);
    const { column, down } = by;
    return rowsOf(table)
      .sort((a, b) => order(a[column], b[column], down))
      .slice(0, most);
  });
</script>

<table class="plain">
  <thead
    ><tr
      >{#each table.columns as column, k (k)}<th
          class:num={column.numeric}
          aria-sort={by?.column === k ? (by.down ? 'descending' : 'ascending') : undefined}
          >{#if canSort}<button title="Sort by this" onclick={() => sort(k)}
              >{columnTitle(column)}{by?.column === k ? (by.down ? ' ↓' : ' ↑') : ''}</button
            >{:else}{columnTitle(column)}{/if}</th
        >{/each}</tr
    ></thead
  >
  <tbody>
    {#each shown as row, i (i)}<tr
        class:touched={touched !== null && row[0] === touched}
        onpointerenter={() => ontouch?.(typeof row[0] === 'string' ? row[0] : null)}
        onpointerleave={() => ontouch?.(null)}
        >{#each row as cell, k (k)}<td class:num={table.columns[k].numeric}
            >{cellText(cell, table.columns[k].numeric)}</td
          >{/each}</tr
      >{/each}
  </tbody>
</table>
{#if table.length > most}<p class="muted">
    The first {most} of {table.length} rows; Copy table takes all.
  </p>{/if}

<style>
  .touched td {
    background: var(--tint);
  }
  td:first-child {
    white-space: nowrap;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  th button {
    font: inherit;
    color: inherit;
    white-space: nowrap;
  }
</style>
