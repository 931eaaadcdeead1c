import { axisScale, type AxisScale } from '$core/figures/scale';
import { readable, type PlotColours } from './strip-plot';
import {
  drawBand,
  drawTrace,
  firstPlace,
  type Stretch,
  type Trace,
  type TraceBand,
  type Upright,
} from './trace-layer';

/** Width of an axis with its numbers, px. */
export const AXIS_WIDTH = 50;
/** Space above and below the curves, px. */
const ROOM = 4;

export interface TraceAxis {
  /** Names its range, which stands still while it suits. */
  key: string;
  side: 'left' | 'right';
  logarithmic: boolean;
  /** Ends that were chosen; null for those of the data. */
  min: number | null;
  max: number | null;
  /** Of its numbers, where several stand side by side. */
  colour: string | null;
}
/** What is drawn. While only `from` and `to` change, and the rest are the same objects, what was drawn is moved along. */
export interface TracePicture {
  from: number;
  to: number;
  axes: readonly TraceAxis[];
  traces: readonly Trace[];
  bands: readonly TraceBand[];
  /** Space for axes on either side, so that panels stand under each other. */
  left: number;
  right: number;
}

/** The first curves on a page, for whoever measures how long it takes. */
let marked: PerformanceMark | null = null;

/** Curves as they were drawn, further than they are looked at: moved along while one pans, stretched while one zooms. */
interface Layer extends Stretch {
  canvas: HTMLCanvasElement;
  /** What it was drawn of. */
  traces: readonly Trace[];
  bands: readonly TraceBand[];
  /** Size and ranges, as text. */
  of: string;
}
/** How far beyond the window on either side, in windows. */
const BEYOND = 0.5;
/** A layer is stretched by up to so much while one zooms; then it is drawn anew. */
const MOST_STRETCH = 2;
/** So long after the last move what was stretched is drawn sharply, ms. */
const SHARP_MS = 140;

/** Curves of any number of takes on one canvas, with an axis for each of several units. Drawn by hand: it is redrawn at every step of a drag,
 *  and may hold fifty takes. */
export class TracePlot {
  private readonly context: CanvasRenderingContext2D;
  private readonly watch: ResizeObserver;
  private readonly ranges = new Map<string, [number, number]>();
  private picture: TracePicture | null = null;
  private layer: Layer | null = null;
  private waiting = 0;
  private sharpening: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly colours: PlotColours,
  ) {
    this.context = canvas.getContext('2d')!;
    this.watch = new ResizeObserver(() => this.paint(true));
    this.watch.observe(canvas);
  }

  /** Draws at the next frame, however often it is asked until then. */
  draw(picture: TracePicture): void {
    this.picture = picture;
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0;
      this.paint(false);
    });
  }

  /** @param sharply even where moving along what was drawn would do */
  private paint(sharply: boolean): void {
    const { canvas, context: c, picture } = this;
    const { clientWidth: width, clientHeight: height } = canvas;
    clearTimeout(this.sharpening);
    if (!picture || width === 0 || height === 0) return;
    const sharp = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * sharp), Math.round(height * sharp)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(sharp, 0, 0, sharp, 0, 0);
    c.clearRect(0, 0, width, height);
    const { from, to, axes, left, right, traces } = picture;
    const [low, high] = [ROOM, height - ROOM];
    const scales = axes.map((axis, k) => this.scaleOf(axis, k, picture, [high, low], height));
    this.axes(picture, scales, { left, right: width - right });
    const plot = Math.max(1, width - left - right);
    const across = plot / (to - from);
    const of = JSON.stringify([plot, height, sharp, scales.map((s) => [s.low, s.high])]);
    const layer =
      this.layerFor(picture, of, across, sharply) ?? this.drawLayer(picture, scales, of, plot, height, sharp);
    const stretch = across / layer.across;
    // Only what lies beside the axes: the layer goes further.
    const part = { at: (from - layer.from) * layer.across, width: plot / stretch };
    c.drawImage(layer.canvas, part.at * sharp, 0, part.width * sharp, h, left, 0, plot, height);
    if (Math.abs(stretch - 1) > 1e-9 || part.at % 1 !== 0)
      this.sharpening = setTimeout(() => this.paint(true), SHARP_MS);
    if (traces.length && !marked) marked = performance.mark('first picture');
  }

  /** The layer that was drawn, where it will do. */
  private layerFor(
    { from, to, traces, bands }: TracePicture,
    of: string,
    across: number,
    sharply: boolean,
  ): Layer | null {
    const { layer } = this;
    if (!layer || layer.traces !== traces || layer.bands !== bands || layer.of !== of) return null;
    const stretch = across / layer.across;
    if (layer.from > from || layer.to < to || stretch > MOST_STRETCH || stretch < 1 / MOST_STRETCH)
      return null;
    const exact = Math.abs(stretch - 1) < 1e-9 && Math.abs(((from - layer.from) * layer.across) % 1) < 1e-6;
    return sharply && !exact ? null : layer;
  }

  private drawLayer(
    { from, to, axes, traces, bands }: TracePicture,
    scales: readonly AxisScale[],
    of: string,
    plot: number,
    height: number,
    sharp: number,
  ): Layer {
    const across = plot / (to - from);
    const beyond = Math.round(plot * BEYOND);
    const canvas = this.layer?.canvas ?? document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.round((plot + 2 * beyond) * sharp), Math.round(height * sharp)];
    const c = canvas.getContext('2d')!;
    c.setTransform(sharp, 0, 0, sharp, 0, 0);
    const stretch = { from: from - beyond / across, to: to + beyond / across, left: 0, across };
    const upright = axes.map(({ logarithmic }, k) => uprightOf(scales[k], logarithmic));
    for (const band of bands) drawBand(c, band, stretch, upright[band.axis]);
    for (const trace of traces) drawTrace(c, trace, stretch, upright[trace.axis]);
    return (this.layer = { ...stretch, canvas, traces, bands, of });
  }

  private scaleOf(
    axis: TraceAxis,
    k: number,
    picture: TracePicture,
    ends: [number, number],
    height: number,
  ): AxisScale {
    const scale = axis.logarithmic ? ('logarithmic' as const) : ('linear' as const);
    const wanted = Math.max(2, Math.min(6, height / 34));
    return axisScale({ label: '', unit: '', scale }, this.rangeOf(axis, k, picture), ends, wanted);
  }

  private axes(
    { axes, left }: TracePicture,
    scales: readonly AxisScale[],
    area: { left: number; right: number },
  ): void {
    const { context: c, colours } = this;
    c.font = '11px "JetBrains Mono Variable"';
    c.textBaseline = 'middle';
    c.lineWidth = 1;
    const counts = { left: 0, right: 0 };
    axes.forEach((axis, k) => {
      const place = counts[axis.side]++;
      const { ticks } = scales[k];
      const lines = ticks.map((t) => Math.round(t.at) + 0.5);
      if (k === 0) {
        c.strokeStyle = colours.line;
        c.beginPath();
        for (const at of lines) {
          c.moveTo(area.left, at);
          c.lineTo(area.right, at);
        }
        c.stroke();
      }
      c.fillStyle = axis.colour ?? colours.text;
      c.textAlign = axis.side === 'left' ? 'right' : 'left';
      const at = axis.side === 'left' ? left - 6 - place * AXIS_WIDTH : area.right + 6 + place * AXIS_WIDTH;
      for (const i of readable(lines)) c.fillText(ticks[i].text, at, lines[i]);
      if (k > 0 && axis.colour) {
        // Short strokes tie numbers to their axis where it has no grid.
        const edge = axis.side === 'left' ? area.left : area.right;
        c.strokeStyle = axis.colour;
        c.beginPath();
        for (const line of lines) {
          c.moveTo(edge, line);
          c.lineTo(edge + (axis.side === 'left' ? -4 : 4), line);
        }
        c.stroke();
      }
    });
  }

  /** The ends of an axis: those chosen, else of what is in view; they stand still while they suit. */
  private rangeOf(axis: TraceAxis, k: number, { from, to, traces, bands }: TracePicture): [number, number] {
    let [low, high] = [Infinity, -Infinity];
    const take = (x: ArrayLike<number>, min: ArrayLike<number>, max: ArrayLike<number>) => {
      const last = Math.min(x.length - 1, firstPlace(x, to));
      for (let i = Math.max(0, firstPlace(x, from) - 1); i <= last; i++) {
        if (min[i] < low && (!axis.logarithmic || min[i] > 0)) low = min[i];
        if (max[i] > high && (!axis.logarithmic || max[i] > 0)) high = max[i];
      }
    };
    for (const t of traces) if (t.axis === k) take(t.x, t.min, t.max);
    for (const b of bands) if (b.axis === k) take(b.x, b.low, b.high);
    if (!(low <= high)) [low, high] = axis.logarithmic ? [1, 10] : [0, 1];
    const held = this.ranges.get(axis.key);
    const span = high - low || Math.abs(high) * 0.02 || 1;
    let range: [number, number];
    if (axis.logarithmic) range = low === high ? [low / 2, high * 2] : [low / 1.15, high * 1.15];
    else if (held && low >= held[0] && high <= held[1] && span > (held[1] - held[0]) * 0.35) range = held;
    else range = [low - span * 0.08, high + span * 0.08];
    this.ranges.set(axis.key, range);
    const [a, b] = [axis.min ?? range[0], axis.max ?? range[1]];
    if (axis.logarithmic && !(a > 0)) return [Math.min(range[0], b / 10), b];
    return b > a ? [a, b] : [a, a + span];
  }

  destroy(): void {
    cancelAnimationFrame(this.waiting);
    clearTimeout(this.sharpening);
    this.watch.disconnect();
  }
}

/** The straight line from values, or their logarithms, to places. */
function uprightOf({ low, high, at }: AxisScale, logarithmic: boolean): Upright {
  const [a, b] = logarithmic ? [Math.log(low), Math.log(high)] : [low, high];
  const slope = (at(high) - at(low)) / (b - a);
  return { slope, offset: at(low) - slope * a, logarithmic };
}
