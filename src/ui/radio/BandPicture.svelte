<!-- A band drawn as in a technical drawing: lines, pins, dimensions, level line, limits. Pins and the level line are dragged; dragging over the rest looks closer. -->
<script lang="ts">
  import { listPeaks, readPin, type HeardLine } from '$core/radio/measure';
  import { traceColour } from '$contract/palette';
  import type { LineWish, Listening } from '$contract/radio';
  import type { Measuring } from '$contract/radio-measuring';
  import { drawBand, type BandPlaces, type DrawnBand } from './band-plot';
  import { canvasInk } from '../plot/canvas';
  import { heardLine, type Ear } from './ear.svelte';
  import { LINE_COLOURS } from './words';

  type Props = {
    ear: Ear;
    listening: Listening;
    lines: LineWish[];
    measuring: Measuring;
    dimensions: DrawnBand['dimensions'];
    chosen: number;
    aside: string;
    night: boolean;
    choose: (pin: number) => void;
    pinTo: (pin: number, hz: number) => void;
    levelTo: (level: number) => void;
    closer: (fromHz: number, toHz: number) => void;
    wheel: (atHz: number, by: number) => void;
  };
  let {
    ear,
    listening,
    lines,
    measuring,
    dimensions,
    chosen,
    aside,
    night,
    choose,
    pinTo,
    levelTo,
    closer,
    wheel,
  }: Props = $props();

  /** Peaks that are labelled at the most. */
  const LABELLED = 16;
  let places: BandPlaces | null = null;
  let drag:
    | { what: 'pin'; id: number }
    | { what: 'level' }
    | { what: 'region'; fromHz: number; startX: number }
    | null = null;
  let region = $state.raw<{ fromHz: number; toHz: number } | null>(null);
  let cursor = $state('crosshair');

  function attach(canvas: HTMLCanvasElement) {
    let ink = canvasInk(canvas);
    let inkNight = night;
    const draw = () => {
      const heard = ear.newest;
      if (!heard || document.hidden) return;
      if (inkNight !== night) [ink, inkNight] = [canvasInk(canvas), night];
      const then = ear.then();
      const drawn = lines.flatMap((l, k) => {
        const levels = heard.lines.find((h) => h.id === l.id)?.levels;
        if (!l.shown || !levels) return [];
        return [
          {
            levels,
            colour: traceColour(LINE_COLOURS[k], night),
            faint: then !== null,
            apart: l.shows === 'difference',
          },
        ];
      });
      if (then) drawn.unshift({ levels: then, colour: traceColour(0, night), faint: false, apart: false });
      const measured = then ?? heard.lines.find((l) => l.id === measuring.line)?.levels ?? null;
      const line: HeardLine | null = measured && heardLine(heard, measured);
      const pins = line ? measuring.pins.flatMap((p) => readPin(line, p) ?? []) : [];
      places = drawBand(
        canvas,
        {
          plan: heard.plan,
          top: listening.top,
          height: listening.height,
          lines: drawn,
          pins,
          peaks: line
            ? listPeaks(line, measuring, LABELLED).filter((p) =>
                pins.every((q) => Math.abs(q.hz - p.hz) > 1.5 * line.stepHz),
              )
            : [],
          to: measuring.to,
          chosen,
          level: measuring.level,
          limits: measuring.limits,
          dimensions,
          region,
          doubtful: heard.overload,
          aside,
        },
        ink,
      );
    };
    draw();
    const undo = ear.onPicture(draw);
    const watch = new ResizeObserver(draw);
    watch.observe(canvas);
    again = draw;
    return () => {
      undo();
      watch.disconnect();
    };
  }
  let again: () => void = () => undefined;
  // What is set is drawn at once, also while the view is held.
  $effect(() => {
    void [listening, lines, measuring, dimensions, chosen, aside, night, region, ear.pointerS, ear.held];
    again();
  });

  const at = (e: PointerEvent | WheelEvent) => {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  function down(e: PointerEvent) {
    if (!places || e.button !== 0) return;
    const { x, y } = at(e);
    const pin = places.pinAt(x, y);
    if (pin !== null) {
      drag = { what: 'pin', id: pin };
      choose(pin);
    } else if (places.onLevel(y)) drag = { what: 'level' };
    else if (places.inside(x, y)) drag = { what: 'region', fromHz: places.hzAt(x), startX: x };
    else return;
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
  }
  function move(e: PointerEvent) {
    if (!places) return;
    const { x, y } = at(e);
    if (!drag) {
      cursor = places.pinAt(x, y) !== null ? 'ew-resize' : places.onLevel(y) ? 'ns-resize' : 'crosshair';
      return;
    }
    if (drag.what === 'pin') pinTo(drag.id, places.hzAt(x));
    else if (drag.what === 'level') levelTo(Math.round(places.levelAt(y) * 2) / 2);
    else if (Math.abs(x - drag.startX) > 6) region = { fromHz: drag.fromHz, toHz: places.hzAt(x) };
  }
  function up() {
    if (drag?.what === 'region' && region)
      closer(Math.min(region.fromHz, region.toHz), Math.max(region.fromHz, region.toHz));
    else if (drag?.what === 'region' && measuring.pins.some((p) => p.id === chosen))
      pinTo(chosen, drag.fromHz);
    drag = null;
    region = null;
  }
</script>

<canvas
  {@attach attach}
  style:cursor
  aria-label="The band: levels over frequency"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => ((drag = null), (region = null))}
  onwheel={(e) => {
    if (!places) return;
    e.preventDefault();
    wheel(places.hzAt(at(e).x), e.deltaY < 0 ? 0.8 : 1.25);
  }}
></canvas>

<style>
  canvas {
    width: 100%;
    height: 100%;
    display: block;
    touch-action: none;
  }
</style>
