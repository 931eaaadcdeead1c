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
    gap: 2px 14px;
    padding: 10px 14px;
  }
  .kinds button {
    text-align: left;
    padding: 3px 6px;
    border-radius: 5px;
    font-size: 12.5px;
  }
  .kinds button:hover,
  .kinds button:focus-visible {
    background: var(--tint);
  }
</style>
