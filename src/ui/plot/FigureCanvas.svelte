<!-- A figure that fills its place, drawn anew whenever it changes. What draws it is fetched with the first one. -->
<script lang="ts">
  import type { Figure } from '$core/figures/figure';
  import type { Box, Layout, Part } from '$core/figures/layout';
  import { screenInk } from './screen-ink';
  import type { ScreenPainter } from './screen-painter';

  type Props = {
    /** Null while there is nothing to draw yet. */
    figure: Figure | null;
    night: boolean;
    label?: string;
    /** Part of the axes that is shown. */
    part?: Part;
    /** Told where things stand after each drawing. */
    laid?: (layout: Layout, box: Box) => void;
  };
  let { figure, night, label, part = {}, laid }: Props = $props();

  let painter = $state.raw<ScreenPainter | null>(null);
  let missing = $state(false);

  function attach(canvas: HTMLCanvasElement) {
    const ink = screenInk(canvas, night);
    let gone = false;
    import('./screen-painter').then(
      ({ ScreenPainter }) => {
        if (!gone) painter = new ScreenPainter(canvas, ink, laid);
      },
      () => (missing = true),
    );
    return () => {
      gone = true;
      painter?.destroy();
      painter = null;
    };
  }
  $effect(() => {
    if (figure) painter?.draw(figure, part);
  });
</script>

{#key night}<canvas {@attach attach} aria-label={label}></canvas>{/key}
{#if missing}<p class="muted">What draws this could not be fetched: reload the page.</p>{/if}

<style>
  canvas {
    position: absolute;
    inset: 0;
  }
  p {
    padding: var(--space-3);
  }
</style>
