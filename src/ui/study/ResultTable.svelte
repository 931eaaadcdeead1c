<script lang="ts">
  import type { ResultTable } from '$core/studies/study';
  import { cellText, columnTitle } from './table-text';

  type Props = { table: ResultTable; most?: number };
  let { table, most = 400 }: Props = $props();
  const shown = $derived(table.rows.slice(0, most));
</script>

<table class="plain">
  <thead
    ><tr
      >{#each table.columns as column, k (k)}<th class:num={column.numeric}>{columnTitle(column)}</th
        >{/each}</tr
    ></thead
  >
  <tbody>
    {#each shown as row, i (i)}<tr
        >{#each row as cell, k (k)}<td class:num={table.columns[k].numeric}
            >{cellText(cell, table.columns[k].numeric)}</td
          >{/each}</tr
      >{/each}
  </tbody>
</table>
{#if table.rows.length > most}<p class="muted">
    The first {most} of {table.rows.length} rows; Copy table takes all.
  </p>{/if}

<style>
  td:first-child {
    white-space: nowrap;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
</style>
