<!-- The kinds of views that can be put on a board, each with what it is good for. -->
<script lang="ts">
  import { BOARD_VIEWS } from './views/registry';
  import type { BoardView } from './views/view';

  let { choose }: { choose: (kind: BoardView) => void } = $props();
</script>

<div class="kinds card" role="group" aria-label="Kinds of views">
  {#each BOARD_VIEWS as view (view.kind)}<button onclick={() => choose(view)}
      ><strong>{view.title}</strong> <span class="muted">{view.purpose}</span></button
    >{/each}
</div>

<style>
  .kinds {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: var(--space-half) var(--space-3);
    padding: var(--space-2) var(--space-3);
  }
  .kinds button {
    text-align: left;
    padding: var(--space-half) var(--space-1);
    border-radius: var(--radius);
    font-size: var(--type-small);
  }
  .kinds button:hover,
  .kinds button:focus-visible {
    background: var(--tint);
  }
</style>
