<!-- The whole under the plots, with the window in it: drag it along, drag its ends, or a new one. -->
<script lang="ts">
  import { traceColour } from '$contract/palette';
  import { TracePlot } from '../plot/trace-plot';
  import type { Inspection } from './inspection.svelte';
  import type { Curve } from './panels';
  import { Windows } from './windows.svelte';

  type Props = { insp: Inspection; first: Curve; night: boolean; left: number; right: number };
  let { insp, first, night, left, right }: Props = $props();

  const windows = new Windows();
  let box: HTMLDivElement;
  let width = $state(0);
  let drag = $state<{ at: number; what: 'move' | 'from' | 'to' | 'new'; window: [number, number] } | null>(
    null,
  );

  const whole = $derived(insp.whole);
  const share = (s: number) => Math.min(100, Math.max(0, ((s - whole[0]) / (whole[1] - whole[0])) * 100));
  $effect(() => {
    if (width > 0)
      windows.look(
        [{ take: first.take, signals: [first.signal.id] }],
        insp.zero,
        whole,
        width,
        insp.recorded,
      );
  });
  $effect(() => () => windows.stop());

  const attach = (canvas: HTMLCanvasElement) => {
    const plot = new TracePlot(canvas, { line: 'transparent', text: 'transparent' });
    $effect(() => {
      const drawn = windows.drawn.get(`${first.take.head.id} ${first.signal.id}`);
      const zero = insp.zero(first.take.head.id);
      plot.draw({
        from: whole[0],
        to: whole[1],
        left: 0,
        right: 0,
        bands: [],
        axes: [
          { key: `${first.signal.id}`, side: 'left', logarithmic: false, min: null, max: null, colour: null },
        ],
        traces: drawn
          ? [
              {
                x: drawn.x.map((t) => t - zero),
                min: drawn.min,
                max: drawn.max,
                axis: 0,
                colour: traceColour(first.signal.colour, night),
                width: 1,
                dash: [],
              },
            ]
          : [],
      });
    });
    return () => plot.destroy();
  };

  const at = (clientX: number) => {
    const { left: edge, width: px } = box.getBoundingClientRect();
    return whole[0] + Math.min(1, Math.max(0, (clientX - edge) / px)) * (whole[1] - whole[0]);
  };
  function down(event: PointerEvent) {
    if (event.button !== 0) return;
    event.preventDefault();
    box.setPointerCapture(event.pointerId);
    const what = ((event.target as HTMLElement).dataset.part ?? 'new') as 'move' | 'from' | 'to' | 'new';
    insp.remember();
    drag = { at: at(event.clientX), what, window: insp.window };
  }
  function move(event: PointerEvent) {
    if (!drag) return;
    const now = at(event.clientX);
    const by = now - drag.at;
    const [from, to] = drag.window;
    if (drag.what === 'move') insp.look(from + by, to + by, true);
    else if (drag.what === 'from') insp.look(from + by, to, true);
    else if (drag.what === 'to') insp.look(from, to + by, true);
    else insp.look(Math.min(now, drag.at), Math.max(now, drag.at), true);
  }
</script>

<div
  class="whole"
  bind:this={box}
  bind:clientWidth={width}
  style:margin-left="{left}px"
  style:margin-right="{right}px"
  role="group"
  aria-label="All of it, with what is looked at; the page’s keys move it, too"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={() => (drag = null)}
  onpointercancel={() => (drag = null)}
>
  <canvas {@attach attach} aria-hidden="true"></canvas>
  <div
    class="window"
    data-part="move"
    style:left="{share(insp.window[0])}%"
    style:right="{100 - share(insp.window[1])}%"
  >
    <i data-part="from"></i><i class="to" data-part="to"></i>
  </div>
</div>

<style>
  .whole {
    position: relative;
    height: 32px;
    flex-shrink: 0;
    border: 1px solid var(--hair);
    border-radius: calc(var(--radius) / 3);
    overflow: hidden;
    touch-action: none;
    cursor: crosshair;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    opacity: 0.7;
  }
  .window {
    position: absolute;
    top: 0;
    bottom: 0;
    min-width: 4px;
    background: color-mix(in srgb, var(--plum) 10%, transparent);
    border-inline: 2px solid var(--plum);
    cursor: grab;
  }
  .window:active {
    cursor: grabbing;
  }
  i {
    position: absolute;
    top: 0;
    bottom: 0;
    left: -5px;
    width: 10px;
    cursor: ew-resize;
  }
  .to {
    left: auto;
    right: -5px;
  }
</style>
