<!-- Which columns the grid of channels of this job shows. -->
<script lang="ts">
  import { COLUMNS, USUAL_COLUMNS } from '$contract/columns';
  import { Button } from 'flowbite-svelte';

  type Props = { columns: string[]; take: (columns: string[]) => void };
  let { columns, take }: Props = $props();
  // A dialog begins with what is shown now.
  // svelte-ignore state_referenced_locally
  let wanted = $state([...columns]);
  const ordered = $derived(COLUMNS.filter((c) => wanted.includes(c.key)).map((c) => c.key));
</script>

<div class="columns">
  {#each COLUMNS as column (column.key)}
    <label
      ><input type="checkbox" bind:group={wanted} value={column.key} disabled={column.key === 'name'} />
      {column.label}</label
    >
  {/each}
</div>
<div class="row">
  <Button size="sm" onclick={() => take(ordered)}>Show {ordered.length} columns</Button>
  <button class="dotted" onclick={() => (wanted = [...USUAL_COLUMNS])}>the usual ones</button>
</div>

<style>
  .columns {
    columns: 3;
    font-size: var(--type-body);
  }
  label {
    display: flex;
    align-items: center;
    gap: var(--space-2);
    padding: var(--space-half) 0;
  }
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-top: var(--space-3);
  }
</style>
