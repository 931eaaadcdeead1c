<!-- Which takes a study compares, in their order: the first is the one it stands under. -->
<script lang="ts">
  import type { Overview } from '$contract/overview';
  import TakeSelect from '../take/TakeSelect.svelte';

  type Props = {
    takes: Overview['takes'];
    chosen: string[];
    least: number;
    most: number;
    change: (takes: string[]) => void;
  };
  let { takes, chosen, least, most, change }: Props = $props();
  const nameOf = (id: string) => takes.find((t) => t.id === id)?.name ?? 'a take that is gone';
  const left = $derived(takes.filter((t) => !chosen.includes(t.id)));
</script>

<p class="takes">
  <span>Of the takes</span>
  {#each chosen as id (id)}
    <span class="take"
      >{nameOf(id)}{#if chosen.length > least}<button
          class="dotted"
          aria-label="Leave out {nameOf(id)}"
          onclick={() => change(chosen.filter((c) => c !== id))}>✕</button
        >{/if}</span
    >
  {/each}
  {#if chosen.length < most && left.length}
    <TakeSelect
      takes={left}
      value=""
      label="Add a take"
      none="add a take"
      onchange={(id) => id && change([...chosen, id])}
    />
  {/if}
</p>

<style>
  .takes {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: var(--space-1) var(--space-3);
    margin: 0;
    font-size: var(--type-body);
  }
  .take {
    display: inline-flex;
    gap: var(--space-1);
    align-items: baseline;
    font-weight: 600;
  }
</style>
