import { interpolateLab } from 'd3-interpolate';
import { readingText } from '../readings';
import { placeAt, type HeatMark } from './figure';

/** Ends of a heat picture's colours: those it says, or those of its values. Where colours follow levels, four decades at most. */
export function heatRange({ z, low, high, logarithmic }: HeatMark): [low: number, high: number] {
  let least = Infinity;
  let most = -Infinity;
  for (let i = 0; i < z.length; i++) {
    const v = z[i];
    if (!Number.isFinite(v) || (logarithmic && v <= 0)) continue;
    if (v < least) least = v;
    if (v > most) most = v;
  }
  if (!(least <= most)) [least, most] = logarithmic ? [1, 10] : [0, 1];
  const bottom = low ?? (logarithmic ? Math.max(least, most / 1e4) : least);
  const top = high ?? most;
  return [bottom, top > bottom ? top : bottom + (Math.abs(bottom) || 1)];
}

/** Share of the range of colours, 0 to 1; NaN where there is no value. */
export function heatShare(mark: HeatMark, [low, high]: readonly [number, number]): (value: number) => number {
  const clip = (share: number) => Math.min(1, Math.max(0, share));
  if (!mark.logarithmic) return (v) => clip((v - low) / (high - low));
  const span = Math.log(high / low);
  return (v) => (v > 0 ? clip(Math.log(v / low) / span) : v === v ? 0 : NaN);
}

/** Colours of heat from paper to ink, even in lightness (CIE L*a*b*): a print in grey reads the same. */
export function heatColours(from: string, to: string, steps = 256): [r: number, g: number, b: number][] {
  const colour = interpolateLab(from, to);
  return Array.from({ length: steps }, (_, k) => {
    const [r, g, b] = colour(k / (steps - 1))
      .match(/\d+/g)!
      .map(Number);
    return [r, g, b];
  });
}

/** Ends of the colours in words, as many digits as tell them apart. */
export const heatEnds = (mark: HeatMark): [low: string, high: string] => {
  const [low, high] = heatRange(mark);
  return [readingText(low, { digits: 3 }), readingText(high, { digits: 3 })];
};

export const heatColumns = (mark: HeatMark) => Math.max(0, mark.x.length - 1);
export const heatRows = (mark: HeatMark) => Math.max(0, mark.y.length - 1);

/** The cell that holds a place; −1 outside. Edges have to rise. */
export function cellAt(edges: HeatMark['x'], value: number): number {
  const n = edges.length - 1;
  if (n < 1 || !(value >= placeAt(edges, 0)) || !(value <= placeAt(edges, n))) return -1;
  let low = 0;
  let high = n - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (placeAt(edges, middle) <= value) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** A heat picture with no more cells than can be told apart: of those that fall together the highest counts, so that no line is lost. */
export function coarser(mark: HeatMark, columns: number, rows: number): HeatMark {
  const [nx, ny] = [heatColumns(mark), heatRows(mark)];
  const [px, py] = [Math.max(1, Math.ceil(nx / columns)), Math.max(1, Math.ceil(ny / rows))];
  if (px === 1 && py === 1) return mark;
  const [cx, cy] = [Math.ceil(nx / px), Math.ceil(ny / py)];
  const z = new Float64Array(cx * cy).fill(NaN);
  for (let k = 0; k < ny; k++)
    for (let i = 0; i < nx; i++) {
      const at = Math.floor(k / py) * cx + Math.floor(i / px);
      const v = mark.z[k * nx + i];
      if (!(z[at] >= v)) z[at] = Number.isNaN(v) ? z[at] : v;
    }
  const edges = (of: HeatMark['x'], per: number, n: number, count: number) =>
    Float64Array.from({ length: count + 1 }, (_, i) => placeAt(of, Math.min(n, i * per)));
  return { ...mark, x: edges(mark.x, px, nx, cx), y: edges(mark.y, py, ny, cy), z };
}
