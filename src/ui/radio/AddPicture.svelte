<!-- Adds a picture to a page, or arranges all as they were in the beginning. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import FloatBox from '../kit/FloatBox.svelte';

  type Props = { kinds: Record<string, { name: string }>; add: (kind: string) => void; anew: () => void };
  let { kinds, add, anew }: Props = $props();
  let at = $state<HTMLElement | null>(null);
  const act = (work: () => void) => () => {
    at = null;
    work();
  };
</script>

<Button
  size="sm"
  color="alternative"
  aria-haspopup="dialog"
  onclick={(e: MouseEvent) => (at = e.currentTarget as HTMLElement)}>Add a picture</Button
>
{#if at}
  <FloatBox anchor={at} label="Add a picture" close={() => (at = null)}>
    <div class="kinds">
      {#each Object.entries(kinds) as [key, { name }] (key)}
        <button type="button" onclick={act(() => add(key))}>{name}</button>
      {/each}
      <button type="button" class="dotted" onclick={act(anew)}>arrange all as in the beginning</button>
    </div>
  </FloatBox>
{/if}

<style>
  .kinds {
    display: grid;
    gap: var(--space-1);
    justify-items: start;
  }
  button:hover {
    color: var(--plum);
  }
</style>
