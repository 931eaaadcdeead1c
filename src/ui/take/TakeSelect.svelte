<!-- Chooses one of the takes, listed under their folders with number and time. -->
<script lang="ts">
  import type { Overview } from '$contract/overview';
  import { takesByFolder, takeTag } from './labels';

  type Props = {
    takes: Overview['takes'];
    value: string;
    label: string;
    /** What stands before the takes: the choice of none. */
    none?: string;
    onchange?: (id: string) => void;
  };
  let { takes, value = $bindable(), label, none, onchange }: Props = $props();
  const folders = $derived(takesByFolder(takes));
</script>

{#snippet options(of: Overview['takes'])}
  {#each of as take (take.id)}<option value={take.id}>{take.name} ({takeTag(take)})</option>{/each}
{/snippet}

<select
  aria-label={label}
  {value}
  onchange={(e) => {
    value = e.currentTarget.value;
    onchange?.(value);
  }}
>
  {#if none}<option value="">{none}</option>{/if}
  {#each folders as { folder, takes: of } (folder)}
    {#if folder}<optgroup label={folder}>{@render options(of)}</optgroup>{:else}{@render options(of)}{/if}
  {/each}
</select>

<style>
  select {
    font: inherit;
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--card);
    color: var(--ink);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    max-width: 250px;
    text-overflow: ellipsis;
  }
</style>
