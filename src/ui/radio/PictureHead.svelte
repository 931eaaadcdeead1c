<!-- Head of a picture, by which it is moved: what it shows is chosen here, and it can be taken away. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  type Props = {
    kinds: Record<string, { name: string }>;
    shows: string;
    says: string;
    choose: (shows: string) => void;
    remove: () => void;
    children?: Snippet;
  };
  let { kinds, shows, says, choose, remove, children }: Props = $props();
</script>

<header class="picture-head">
  <select
    class="plain"
    aria-label="What this picture shows"
    value={shows}
    onchange={(e) => choose(e.currentTarget.value)}
  >
    {#each Object.entries(kinds) as [key, { name }] (key)}<option value={key}>{name}</option>{/each}
  </select>
  <span class="muted says">{says}</span>
  {@render children?.()}
  <button type="button" class="away" aria-label="Take {kinds[shows]?.name ?? 'it'} away" onclick={remove}
    >×</button
  >
</header>

<style>
  header {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    padding-inline: var(--space-1);
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
    cursor: move;
  }
  select {
    border-color: transparent;
    background: none;
    font-weight: 650;
    font-size: var(--type-body);
    padding-left: var(--space-1);
    padding-right: var(--space-1);
    field-sizing: content;
    flex-shrink: 0;
  }
  select:is(:hover, :focus) {
    border-color: var(--line);
  }
  .says {
    overflow: hidden;
    text-overflow: ellipsis;
    flex: 1;
  }
  .away {
    color: var(--muted);
    opacity: 0;
  }
  header:hover .away,
  .away:focus-visible {
    opacity: 1;
  }
  .away:hover {
    color: var(--plum);
  }
</style>
