<script lang="ts">
  import { rowsOf, type Table } from '$core/figures/table';
  import { cellText, columnTitle } from './table-text';

  type Props = { table: Table; most?: number };
  let { table, most = 400 }: Props = $props();
  const shown = $derived(rowsOf(table, 0, most));
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
{#if table.length > most}<p class="muted">
    The first {most} of {table.length} rows; Copy table takes all.
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
