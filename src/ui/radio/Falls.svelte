<!-- The waterfall: what was heard, from now downwards, with a pointer that is dragged back in time. -->
<script lang="ts">
  import { HEAT, NIGHT_HEAT } from '$contract/palette';
  import type { Listening } from '$contract/radio';
  import { heatPixels, canvasInk } from '../plot/canvas';
  import type { Ear } from './ear.svelte';
  import { WaterfallPlot } from './waterfall-plot';

  type Props = { ear: Ear; listening: Listening; spanS: number; night: boolean };
  let { ear, listening, spanS, night }: Props = $props();
  let timeAt: ((y: number) => number) | null = null;
  let again: () => void = () => undefined;

  function attach(canvas: HTMLCanvasElement) {
    const plot = new WaterfallPlot();
    let [ink, pixels, of] = [canvasInk(canvas), heatPixels(night ? NIGHT_HEAT : HEAT), night];
    const draw = () => {
      if (!ear.waterfall || document.hidden) return;
      if (of !== night) [ink, pixels, of] = [canvasInk(canvas), heatPixels(night ? NIGHT_HEAT : HEAT), night];
      const { top, height } = listening;
      timeAt = plot.draw(
        canvas,
        { waterfall: ear.waterfall, spanS, top, height, pointerS: ear.pointerS },
        pixels,
        ink,
      );
    };
    draw();
    again = draw;
    const undo = ear.onPicture(draw);
    const watch = new ResizeObserver(draw);
    watch.observe(canvas);
    return () => {
      undo();
      watch.disconnect();
    };
  }
  $effect(() => {
    void [listening, spanS, night, ear.pointerS];
    again();
  });

  let dragging = false;
  const point = (e: PointerEvent) => {
    if (timeAt) ear.pointerS = timeAt(e.clientY - (e.currentTarget as Element).getBoundingClientRect().top);
  };
  function step(e: KeyboardEvent) {
    const all = ear.waterfall?.span;
    if (!all) return;
    const by = { ArrowDown: -1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[e.key];
    if (e.key === 'Escape' || e.key === 'Home') ear.pointerS = null;
    else if (by) ear.pointerS = Math.max(all.fromS, Math.min(all.toS, (ear.pointerS ?? all.toS) + by * 0.05));
    else return;
    e.preventDefault();
  }
</script>

<canvas
  {@attach attach}
  tabindex="0"
  role="slider"
  data-seconds={ear.picture && ear.waterfall?.span
    ? Math.round(ear.waterfall.span.toS - ear.waterfall.span.fromS)
    : 0}
  aria-label="Moment that is looked at"
  aria-valuenow={ear.pointerS ?? 0}
  aria-valuetext={ear.pointerS === null
    ? 'now'
    : `${((ear.waterfall?.span?.toS ?? 0) - ear.pointerS).toFixed(1)} s ago`}
  onpointerdown={(e) => {
    dragging = true;
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    point(e);
  }}
  onpointermove={(e) => dragging && point(e)}
  onpointerup={() => (dragging = false)}
  onpointercancel={() => (dragging = false)}
  onkeydown={step}
></canvas>

<style>
  canvas {
    width: 100%;
    height: 100%;
    display: block;
    cursor: ns-resize;
    touch-action: none;
  }
</style>
