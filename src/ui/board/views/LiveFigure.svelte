<!-- A view whose figure is made of what the feed brings. While the board is held, or nobody looks, it stays as it is. -->
<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import type { Figure } from '$core/figures/figure';
  import FigureCanvas from '../../plot/FigureCanvas.svelte';
  import { useShell } from '../../shell/shell.svelte';
  import { useBoard } from '../context.svelte';

  type Props = {
    label: string;
    /** What it is drawn of: when this changes it begins anew. */
    of: string;
    /** Begins; what it returns is asked at every step of the feed, and gives null when there is nothing new. */
    begin: () => () => Figure | null;
    foot: Snippet;
  };
  let { label, of, begin, foot }: Props = $props();
  const shell = useShell();
  const board = useBoard();

  let figure = $state.raw<Figure | null>(null);
  $effect(() => {
    void of;
    figure = null;
    const next = untrack(begin);
    return shell.feed.onStep(() => {
      if (!board.held && !document.hidden) figure = next() ?? figure;
    });
  });
</script>

<div class="area">
  {#key of}<FigureCanvas {figure} {label} night={shell.night} />{/key}
</div>
<p class="muted">{@render foot()}</p>

<style>
  .area {
    flex: 1;
    min-height: 0;
    position: relative;
  }
  p {
    margin: 0;
    padding: 0 var(--space-3) var(--space-half) 58px;
    font-size: var(--type-small);
    display: flex;
    justify-content: space-between;
    gap: var(--space-3);
    white-space: nowrap;
    overflow: hidden;
  }
</style>
