import { axisScale, type AxisScale } from './scale';
import {
  barWidth,
  firstAt,
  placeAt,
  type Figure,
  type FigureAxis,
  type Numbers,
  type Places,
} from './figure';

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}
/** The part of a figure that is looked at; what is not said is all of it. */
export interface Part {
  x?: readonly [number, number];
  y?: readonly [number, number];
}
export interface Layout {
  x: AxisScale;
  y: AxisScale;
}
type Ends = readonly [low: number, high: number];

/** Px that a tick's words need: across for the horizontal axis, down for the upright one. */
const ROOM = { x: 76, y: 34 };

/** Scales of a figure within a box. */
export function layoutFigure(figure: Figure, box: Box, part: Part = {}, room = ROOM): Layout {
  const x = part.x ?? horizontalEnds(figure);
  const y = part.y ?? uprightEnds(figure, part.x);
  // Classes need as much room as their names, whatever others need.
  const longest = Math.max(0, ...(figure.x.classes ?? []).map((name) => name.length));
  const across = figure.x.scale === 'classes' ? room.x * Math.max(0.4, (longest + 2) / 11) : room.x;
  // Rows with names have one each, as long as there is room for words.
  const down = figure.y.scale === 'classes' ? Math.min(room.y, 8) : room.y;
  return {
    x: axisScale(figure.x, x, [box.x, box.x + box.width], Math.max(2, Math.round(box.width / across))),
    y: axisScale(figure.y, y, [box.y + box.height, box.y], Math.max(2, Math.round(box.height / down))),
  };
}

/** Length of the longest tick of the upright axis, in letters: what stands left of a figure. */
export const longestTick = ({ y }: Layout): number => Math.max(0, ...y.ticks.map((t) => t.text.length));

/** Ends of the horizontal axis: those it says, or those of what is drawn. */
export function horizontalEnds({ x: axis, marks }: Figure): Ends {
  const span = new Extent(axis);
  for (const mark of marks)
    switch (mark.mark) {
      case 'text':
        span.add(mark.x);
        break;
      case 'dimension':
        if (mark.along === 'x') span.add(mark.from).add(mark.to);
        else span.add(mark.level);
        break;
      case 'bar': {
        const half = barWidth(mark) / 2;
        if (mark.x.length) span.add(placeAt(mark.x, 0) - half).add(placeAt(mark.x, mark.x.length - 1) + half);
        break;
      }
      case 'points':
      case 'stems':
        span.all(mark.x, mark.x.length);
        span.roomy = true;
        break;
      default:
        span.all(mark.x, mark.x.length);
    }
  return span.ends();
}

/** Ends of the upright axis over a part of the horizontal one. */
export function uprightEnds({ y: axis, marks }: Figure, within?: Ends): Ends {
  const span = new Extent(axis);
  span.roomy = true;
  const visible = (x: Places): [number, number] => {
    if (!within || !rises(x)) return [0, x.length];
    // The neighbours outside count, too: lines run to them.
    return [Math.max(0, firstAt(x, within[0]) - 1), Math.min(x.length, firstAt(x, within[1]) + 1)];
  };
  for (const mark of marks)
    switch (mark.mark) {
      case 'text':
        span.add(mark.y);
        break;
      case 'dimension':
        if (mark.along === 'y') span.add(mark.from).add(mark.to);
        else span.add(mark.level);
        break;
      case 'heat':
        span.all(mark.y, mark.y.length);
        span.roomy = false;
        break;
      case 'band': {
        const [first, end] = visible(mark.x);
        span.some(mark.low, first, end).some(mark.high, first, end);
        break;
      }
      case 'bar':
      case 'stems':
        span.some(mark.y, ...visible(mark.x)).add(mark.base ?? 0);
        break;
      case 'points': {
        const [first, end] = visible(mark.x);
        span.some(mark.y, first, end);
        for (let i = first; mark.reach && i < end; i++)
          span.add(mark.y[i] - mark.reach[i]).add(mark.y[i] + mark.reach[i]);
        break;
      }
      default:
        span.some(mark.y, ...visible(mark.x));
    }
  return span.ends();
}

/** Whether places rise throughout: only then a part of them can be found by halving. */
export function rises(x: Places): boolean {
  if ('step' in x) return x.step > 0;
  for (let i = 1; i < x.length; i++) if (!(x[i] >= x[i - 1])) return false;
  return true;
}

/** The power of ten at or next to a value: never beyond it by a rounding of its logarithm. */
function powerBelow(value: number): number {
  const power = Math.round(Math.log10(value));
  return 10 ** power <= value ? 10 ** power : 10 ** Math.floor(Math.log10(value) - 1e-9);
}
function powerAbove(value: number): number {
  const power = Math.round(Math.log10(value));
  return 10 ** power >= value ? 10 ** power : 10 ** Math.ceil(Math.log10(value) + 1e-9);
}

/** Lowest and highest of what an axis can show. */
class Extent {
  private low = Infinity;
  private high = -Infinity;
  /** Whether some space is left beyond the outermost values. */
  roomy = false;

  constructor(private readonly axis: FigureAxis) {}

  private get logarithmic() {
    return this.axis.scale === 'logarithmic' || this.axis.scale === 'decibel';
  }
  add(value: number): this {
    if (!Number.isFinite(value) || (this.logarithmic && value <= 0)) return this;
    if (value < this.low) this.low = value;
    if (value > this.high) this.high = value;
    return this;
  }
  some(values: Numbers, first: number, end: number): this {
    for (let i = first; i < end; i++) this.add(values[i]);
    return this;
  }
  all(places: Places, length: number): this {
    for (let i = 0; i < length; i++) this.add(placeAt(places, i));
    return this;
  }
  /** Never empty, whatever was added: an axis has two ends that differ. */
  ends(): Ends {
    const { axis, roomy, logarithmic } = this;
    let [low, high] = this.low <= this.high ? [this.low, this.high] : logarithmic ? [1, 10] : [0, 1];
    if (axis.scale === 'classes') [low, high] = [-0.5, Math.max(0, (axis.classes?.length ?? 1) - 1) + 0.5];
    else if (axis.scale === 'logarithmic' && roomy) [low, high] = [powerBelow(low), powerAbove(high)];
    else if (logarithmic && roomy) [low, high] = [low / 1.25, high * 1.25];
    else if (roomy) {
      const margin = (high - low) * 0.06 || Math.abs(high) * 0.05 || 0.5;
      [low, high] = [low - margin, high + margin];
    }
    low = axis.min ?? low;
    high = axis.max ?? high;
    if (!(high > low)) high = logarithmic ? low * 10 : low + (Math.abs(low) * 0.05 || 1);
    return [low, high];
  }
}

/** A line's points within [from, to], no more than a few for each column: of many in one column the lowest and the highest, in their
 *  order, so that no peak is lost. Places that do not rise are left as they are. */
export function thinned(
  x: Places,
  y: Numbers,
  [from, to]: Ends,
  columns: number,
): { x: Float64Array; y: Float64Array } {
  const rising = rises(x);
  const first = rising ? Math.max(0, firstAt(x, from) - 1) : 0;
  const end = rising ? Math.min(x.length, firstAt(x, to) + 1) : x.length;
  const n = Math.max(0, end - first);
  if (!rising || n <= 4 * columns)
    return {
      x: Float64Array.from({ length: n }, (_, i) => placeAt(x, first + i)),
      y: Float64Array.from({ length: n }, (_, i) => y[first + i]),
    };
  const xs: number[] = [];
  const ys: number[] = [];
  const put = (i: number) => {
    xs.push(placeAt(x, i));
    ys.push(y[i]);
  };
  for (let c = 0; c < columns; c++) {
    const begin = first + Math.floor((c * n) / columns);
    const stop = first + Math.floor(((c + 1) * n) / columns);
    let low = -1;
    let high = -1;
    let gap = -1;
    for (let i = begin; i < stop; i++) {
      if (Number.isNaN(y[i])) gap = i;
      else {
        if (low < 0 || y[i] < y[low]) low = i;
        if (high < 0 || y[i] > y[high]) high = i;
      }
    }
    const kept = [low, high, gap].filter((i) => i >= 0);
    for (const i of [...new Set(kept)].sort((a, b) => a - b)) put(i);
  }
  return { x: Float64Array.from(xs), y: Float64Array.from(ys) };
}
