import type { BandMark, BarMark, Even, Figure, LineMark, Mark, PointsMark } from './figure';

/** How curves of a recording can be drawn. */
export const CHART_FORMS = [
  'lines',
  'steps',
  'points',
  'bars',
  'against the first of them',
  'rows of colour',
] as const;
export type ChartForm = (typeof CHART_FORMS)[number];

/** How one curve looks, where it is not as it comes. */
export interface CurveLook {
  /** What it is called instead of its channel’s name. */
  label?: string;
  /** Ends of its upright axis, in its unit. */
  from?: number | null;
  to?: number | null;
  /** Position in the palette of traces. */
  colour?: number | null;
  line?: 'full' | 'dashed' | 'dotted' | null;
  weight?: 'light' | 'usual' | 'bold';
}

/** A curve by its extremes in even stretches of time: `x` stands in the middle of each. */
export interface Extremes {
  name: string;
  unit: string;
  colour: number;
  x: Even;
  low: Float32Array;
  high: Float32Array;
}

/** A curve that runs through the lowest and the highest of each stretch, so that no peak is lost: the nearer one to where it came from first.
 *  @returns two places for a stretch whose ends differ, one for one whose ends are alike; a gap stays one */
export function throughExtremes({ x, low, high }: Pick<Extremes, 'x' | 'low' | 'high'>): {
  x: Float64Array;
  y: Float64Array;
} {
  const xs: number[] = [];
  const ys: number[] = [];
  let last = NaN;
  for (let i = 0; i < low.length; i++) {
    const at = x.from + i * x.step;
    const [a, b] = [low[i], high[i]];
    if (!(a < b)) {
      xs.push(at);
      ys.push(a);
      last = a;
      continue;
    }
    const upwards = !(Math.abs(last - b) < Math.abs(last - a));
    xs.push(at - x.step / 4, at + x.step / 4);
    ys.push(upwards ? a : b, upwards ? b : a);
    last = upwards ? b : a;
  }
  return { x: Float64Array.from(xs), y: Float64Array.from(ys) };
}

const named = ({ name, unit, colour }: Extremes, look: CurveLook | undefined) => ({
  name: look?.label || name,
  unit,
  colour: look?.colour ?? colour,
});
const upright = (curve: Extremes, look: CurveLook | undefined, scale: 'linear' | 'logarithmic'): Figure['y'] => ({
  label: look?.label || curve.name,
  unit: curve.unit,
  scale,
  ...(typeof look?.from === 'number' && { min: look.from }),
  ...(typeof look?.to === 'number' && { max: look.to }),
}); // prettier-ignore
const lineOf = (look: CurveLook | undefined): Pick<LineMark, 'dashed' | 'weight'> => ({
  ...(look?.line && { dashed: look.line === 'dotted' ? 'dotted' : look.line === 'dashed' }),
  ...(look?.weight && look.weight !== 'usual' && { weight: look.weight }),
}); // prettier-ignore

/** A curve over time as a figure of its own. Lines as they come are bands of extremes, as solid as a line; a look of its own makes a line of them. */
export function overTime(
  curve: Extremes,
  form: 'lines' | 'steps' | 'points',
  scale: 'linear' | 'logarithmic',
  look?: CurveLook,
): Figure {
  const head = named(curve, look);
  const own = lineOf(look);
  let mark: BandMark | LineMark | PointsMark;
  if (form === 'lines' && Object.keys(own).length === 0)
    mark = { mark: 'band', ...head, solid: true, x: curve.x, low: curve.low, high: curve.high };
  else {
    const line = throughExtremes(curve);
    mark = form === 'points' ? { mark: 'points', ...head, ...line } : { mark: form === 'steps' ? 'step' : 'line', ...head, ...line, ...own }; // prettier-ignore
  }
  return { title: head.name, x: { label: 'Time', unit: 's', scale: 'time' }, y: upright(curve, look, scale), marks: [mark] }; // prettier-ignore
}

/** One value for each of some equal parts of a span: part k begins at `from + k · step`. */
export interface Parts {
  name: string;
  unit: string;
  colour: number;
  from: number;
  step: number;
  values: Float64Array;
}
const extremesOf = ({ values, from, step, ...head }: Parts): Extremes => ({ ...head, x: { from, step, length: values.length }, low: new Float32Array(0), high: new Float32Array(0) }); // prettier-ignore

/** Bars of one curve beside those of the others: of `all` curves each has its share of a part’s width. */
export function bars(
  parts: Parts,
  k: number,
  all: number,
  scale: 'linear' | 'logarithmic',
  look?: CurveLook,
): Figure {
  const curve = extremesOf(parts);
  const head = named(curve, look);
  // A sixth of each part stays free, so that groups are seen as such.
  const width = (parts.step * 5) / 6 / all;
  const from = parts.from + parts.step / 12 + (k + 0.5) * width;
  const mark: BarMark = { mark: 'bar', ...head, x: { from, step: parts.step, length: parts.values.length }, y: parts.values, width }; // prettier-ignore
  return { title: head.name, x: { label: 'Time', unit: 's', scale: 'time' }, y: upright(curve, look, scale), marks: [mark] }; // prettier-ignore
}

/** Curves as rows of colour, the first one on top. Those of one unit share their colours; of several units each has its own, from its lowest to its
 *  highest, in per cent. */
export function rowsOfColour(rows: readonly Parts[], looks: readonly (CurveLook | undefined)[] = []): Figure {
  const units = new Set(rows.map((r) => r.unit));
  const shared = units.size === 1;
  const columns = Math.max(0, ...rows.map((r) => r.values.length));
  const z = new Float64Array(columns * rows.length).fill(NaN);
  rows.forEach(({ values }, k) => {
    let [low, high] = [Infinity, -Infinity];
    for (const v of values) if (Number.isFinite(v)) [low, high] = [Math.min(low, v), Math.max(high, v)];
    const row = rows.length - 1 - k;
    for (let i = 0; i < values.length; i++)
      z[row * columns + i] = shared || values[i] !== values[i] ? values[i] : high > low ? ((values[i] - low) / (high - low)) * 100 : 50; // prettier-ignore
  });
  const names = rows.map((r, k) => looks[k]?.label || r.name).reverse();
  const [{ from, step }] = rows;
  const mark: Mark = {
    mark: 'heat',
    name: shared ? '' : 'Each from its lowest to its highest',
    unit: shared ? rows[0].unit : '%',
    x: { from, step, length: columns + 1 },
    y: { from: -0.5, step: 1, length: rows.length + 1 },
    z,
  };
  return {
    title: names.length === 1 ? names[0] : 'Channels',
    x: { label: 'Time', unit: 's', scale: 'time' },
    y: { label: '', unit: '', scale: 'classes', classes: names },
    marks: [mark],
  };
}

/** Curves against another one: pairs in the order of time. */
export function against(
  across: { name: string; unit: string },
  curves: readonly (Omit<Parts, 'from' | 'step' | 'values'> & { x: Float32Array; y: Float32Array })[],
  scale: 'linear' | 'logarithmic',
  looks: readonly (CurveLook | undefined)[] = [],
  acrossLook?: CurveLook,
): Figure[] {
  const label = acrossLook?.label || across.name;
  return curves.map(({ name, unit, colour, x, y }, k) => {
    const look = looks[k];
    const curve: Extremes = { name, unit, colour, x: { from: 0, step: 1, length: 0 }, low: y, high: y };
    const head = named(curve, look);
    return {
      title: head.name,
      x: { label, unit: across.unit, scale: 'linear', ...(typeof acrossLook?.from === 'number' && { min: acrossLook.from }), ...(typeof acrossLook?.to === 'number' && { max: acrossLook.to }) }, // prettier-ignore
      y: upright(curve, look, scale),
      marks: [{ mark: 'line', ...head, dashed: false, ...lineOf(look), x, y }],
    };
  });
}
