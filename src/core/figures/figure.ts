/** Numbers along an axis that lie one step apart. */
export interface Even {
  from: number;
  step: number;
  length: number;
}
export type Numbers = ArrayLike<number>;
/** Places along the horizontal axis: listed, or one step apart. */
export type Places = Numbers | Even;

/** `time` counts seconds of a recording, `calendar` milliseconds since 1970, UTC. */
export type AxisScaleKind = 'linear' | 'logarithmic' | 'decibel' | 'time' | 'calendar' | 'angle' | 'classes';

/** What an axis says. Values stay in their unit whatever the scale: a scale of decibels draws them as levels. */
export interface FigureAxis {
  label: string;
  unit: string;
  scale: AxisScaleKind;
  /** Ends; what is not said is fitted to what is drawn. */
  min?: number;
  max?: number;
  /** Of a scale of decibels: the value at 0 dB, and whether values are powers (10 lg) or amplitudes (20 lg). */
  reference?: number;
  power?: boolean;
  /** Of a scale of classes: their names; class k stands at k. */
  classes?: readonly string[];
  /** What lies in the middle of class 0, from one to the next, and its unit: where the classes stand on an axis of values. */
  middles?: { from: number; step: number; unit: string };
}

/** What a mark means, where it is no channel's trace. */
export type Tone = 'trace' | 'muted' | 'accent' | 'good' | 'warning' | 'alarm';

interface Drawn {
  name: string;
  unit?: string;
  /** Position in the palette of traces: a channel keeps its colour everywhere. */
  colour?: number;
  tone?: Tone;
}
/** Values joined by straight lines, or held until the next (`step`). NaN breaks the line. */
export interface LineMark extends Drawn {
  mark: 'line' | 'step';
  x: Places;
  y: Numbers;
  /** A trace is dashed by its colour where it does not say; dots are shorter than dashes. */
  dashed?: boolean | 'dotted';
  /** Light for what stands behind, bold for what stands out. */
  weight?: 'light' | 'bold';
}
/** Upright bars about their places. */
export interface BarMark extends Drawn {
  mark: 'bar';
  x: Places;
  y: Numbers;
  /** Along the horizontal axis, in its unit; places that are one step apart are filled by default. */
  width?: number;
  base?: number;
}
/** What lies between two curves: an envelope, a tolerance. */
export interface BandMark extends Drawn {
  mark: 'band';
  x: Places;
  low: Numbers;
  high: Numbers;
  /** An envelope of a signal is as solid as its line. */
  solid?: boolean;
}
/** Single values. @property reach half the length of an upright bar through each, such as an uncertainty */
export interface PointsMark extends Drawn {
  mark: 'points';
  x: Places;
  y: Numbers;
  reach?: Numbers;
  shape?: 'round' | 'diamond';
}
/** Values over two axes as a picture. z runs along x first: cell (i, k) is z[k * columns + i]. */
export interface HeatMark extends Drawn {
  mark: 'heat';
  /** Edges of the columns and rows, one more than there are of them. */
  x: Places;
  y: Places;
  z: Numbers;
  /** Of the colours; values outside take the end’s. */
  low?: number;
  high?: number;
  /** The colours follow the level of the values instead of the values. */
  logarithmic?: boolean;
}
/** Lines from a base to single values. */
export interface StemsMark extends Drawn {
  mark: 'stems';
  x: Places;
  y: Numbers;
  base?: number;
}
/** Words at a place. */
export interface TextMark {
  mark: 'text';
  x: number;
  y: number;
  says: string;
  tone?: Tone;
}
/** A dimension line between two places, as on a drawing. It lies at `level` of the other axis. */
export interface DimensionMark {
  mark: 'dimension';
  along: 'x' | 'y';
  from: number;
  to: number;
  level: number;
  says: string;
  tone?: Tone;
}
export type Mark =
  LineMark | BarMark | BandMark | PointsMark | HeatMark | StemsMark | TextMark | DimensionMark;
/** Marks with a name of their own, read by a cursor and listed in a legend. */
export type NamedMark = Exclude<Mark, TextMark | DimensionMark>;

/** A picture of numbers: drawn alike on screen, on paper and on slides. */
export interface Figure {
  title: string;
  x: FigureAxis;
  y: FigureAxis;
  marks: readonly Mark[];
}

export const isNamed = (mark: Mark): mark is NamedMark => mark.mark !== 'text' && mark.mark !== 'dimension';

const isEven = (x: Places): x is Even => 'step' in x;
export const placeAt = (x: Places, i: number): number => (isEven(x) ? x.from + i * x.step : x[i]);

/** Index of the place that is nearest to a value; places have to rise. */
export function nearest(x: Places, value: number): number {
  if (x.length === 0) return -1;
  if (isEven(x)) return Math.min(x.length - 1, Math.max(0, Math.round((value - x.from) / x.step)));
  const after = firstAt(x, value);
  if (after === 0) return 0;
  if (after === x.length) return x.length - 1;
  return value - x[after - 1] <= x[after] - value ? after - 1 : after;
}

/** Index of the first place at or after a value; places have to rise. */
export function firstAt(x: Places, value: number): number {
  let low = 0;
  let high = x.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (placeAt(x, middle) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Width of a bar in the unit of its axis. */
export function barWidth({ x, width }: BarMark): number {
  if (width !== undefined) return width;
  let least = Infinity;
  for (let i = 1; i < x.length; i++) least = Math.min(least, Math.abs(placeAt(x, i) - placeAt(x, i - 1)));
  return Number.isFinite(least) ? least : 1;
}
