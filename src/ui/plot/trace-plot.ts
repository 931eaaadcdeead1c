import { axisScale, type AxisScale } from '$core/figures/scale';
import { readable, type PlotColours } from './strip-plot';

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
export interface Trace {
  /** Rising, in the unit of the horizontal axis. */
  x: ArrayLike<number>;
  min: ArrayLike<number>;
  max: ArrayLike<number>;
  axis: number;
  colour: string;
  width: number;
  dash: readonly number[];
}
/** Between two curves over the same places. */
export interface TraceBand {
  x: ArrayLike<number>;
  low: ArrayLike<number>;
  high: ArrayLike<number>;
  /** A line within it. */
  middle?: ArrayLike<number>;
  axis: number;
  colour: string;
}
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

/** First place at or after a value, among rising ones. */
export function firstPlace(x: ArrayLike<number>, value: number): number {
  let [low, high] = [0, x.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (x[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The first curves on a page, for whoever measures how long it takes. */
let marked: PerformanceMark | null = null;

/** Curves of any number of takes on one canvas, with an axis for each of several units. Drawn by hand: it is redrawn at every step of a drag,
 *  and may hold fifty takes. */
export class TracePlot {
  private readonly context: CanvasRenderingContext2D;
  private readonly watch: ResizeObserver;
  private readonly ranges = new Map<string, [number, number]>();
  private picture: TracePicture | null = null;
  private waiting = 0;
  /** Scales of the axes as they were drawn last. */
  scales: AxisScale[] = [];

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly colours: PlotColours,
  ) {
    this.context = canvas.getContext('2d')!;
    this.watch = new ResizeObserver(() => this.paint());
    this.watch.observe(canvas);
  }

  /** Draws at the next frame, however often it is asked until then. */
  draw(picture: TracePicture): void {
    this.picture = picture;
    this.waiting ||= requestAnimationFrame(() => {
      this.waiting = 0;
      this.paint();
    });
  }

  private paint(): void {
    const { canvas, context: c, picture } = this;
    const { clientWidth: width, clientHeight: height } = canvas;
    if (!picture || width === 0 || height === 0) return;
    const sharp = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * sharp), Math.round(height * sharp)];
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(sharp, 0, 0, sharp, 0, 0);
    c.clearRect(0, 0, width, height);
    const { from, to, axes, left, right } = picture;
    const area = { left, right: width - right, top: ROOM, bottom: height - ROOM };
    const across = (area.right - area.left) / (to - from);
    this.scales = axes.map((axis, k) => {
      const [low, high] = this.rangeOf(axis, k, picture);
      const scale = axis.logarithmic ? ('logarithmic' as const) : ('linear' as const);
      return axisScale(
        { label: '', unit: '', scale },
        [low, high],
        [area.bottom, area.top],
        Math.max(2, Math.min(6, height / 34)),
      );
    });
    this.axes(picture, area);
    c.save();
    c.beginPath();
    c.rect(area.left, 0, area.right - area.left, height);
    c.clip();
    const x = (value: number) => area.left + (value - from) * across;
    for (const band of picture.bands) this.band(band, x, picture);
    for (const trace of picture.traces) this.trace(trace, x, picture);
    c.restore();
    if (picture.traces.length && !marked) marked = performance.mark('first picture');
  }

  private trace(
    { x: places, min, max, axis, colour, width, dash }: Trace,
    x: (v: number) => number,
    { from, to }: TracePicture,
  ) {
    const { context: c } = this;
    const scale = this.scales[axis];
    const first = Math.max(0, firstPlace(places, from) - 1);
    const last = Math.min(places.length - 1, firstPlace(places, to));
    c.beginPath();
    let broken = true;
    for (let i = first; i <= last; i++) {
      const [low, high] = [scale.at(min[i]), scale.at(max[i])];
      if (low !== low || high !== high) {
        broken = true;
        continue;
      }
      const at = x(places[i]);
      // Down on even buckets, up on odd ones: neighbours join at their near ends.
      const [a, b] = i % 2 ? [high, low] : [low, high];
      if (broken) c.moveTo(at - (a === b && (i === last || min[i + 1] !== min[i + 1]) ? 0.75 : 0), a);
      else c.lineTo(at, a);
      if (b !== a || broken) c.lineTo(at, b);
      broken = false;
    }
    c.strokeStyle = colour;
    c.lineWidth = width;
    c.lineJoin = 'round';
    c.setLineDash(dash as number[]);
    c.stroke();
    c.setLineDash([]);
  }

  private band(
    { x: places, low, high, middle, axis, colour }: TraceBand,
    x: (v: number) => number,
    { from, to }: TracePicture,
  ) {
    const { context: c } = this;
    const scale = this.scales[axis];
    const first = Math.max(0, firstPlace(places, from) - 1);
    const last = Math.min(places.length - 1, firstPlace(places, to));
    c.fillStyle = colour;
    c.globalAlpha = 0.16;
    for (let i = first; i <= last;) {
      let end = i;
      while (end <= last && low[end] === low[end] && high[end] === high[end]) end++;
      if (end > i) {
        c.beginPath();
        for (let k = i; k < end; k++) c.lineTo(x(places[k]), scale.at(low[k]));
        for (let k = end - 1; k >= i; k--) c.lineTo(x(places[k]), scale.at(high[k]));
        c.fill();
      }
      i = Math.max(end, i + 1);
    }
    c.globalAlpha = 1;
    if (middle)
      this.trace({ x: places, min: middle, max: middle, axis, colour, width: 1.5, dash: [6, 3] }, x, {
        from,
        to,
      } as TracePicture);
  }

  private axes({ axes, left }: TracePicture, area: { left: number; right: number }): void {
    const { context: c, colours } = this;
    c.font = '11px "JetBrains Mono Variable"';
    c.textBaseline = 'middle';
    c.lineWidth = 1;
    const counts = { left: 0, right: 0 };
    axes.forEach((axis, k) => {
      const place = counts[axis.side]++;
      const { ticks } = this.scales[k];
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
    this.watch.disconnect();
  }
}
