<!-- An empty place: one sentence that says the next step, with its button. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  type Props = { says: string; children?: Snippet };
  let { says, children }: Props = $props();
</script>

<div class="empty">
  <p>{says}</p>
  {@render children?.()}
</div>

<style>
  .empty {
    display: grid;
    gap: var(--space-3);
    justify-items: center;
    align-content: center;
    flex: 1;
    min-height: 220px;
    text-align: center;
  }
  p {
    font-size: var(--type-reading);
    max-width: 46ch;
    margin: 0;
  }
</style>
