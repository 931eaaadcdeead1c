import { toneBetween, type FilterShape } from './response';

/** A peak of a line and where it stands between the lines. */
export interface Peak {
  /** The line it is highest on. */
  line: number;
  hz: number;
  /** dBm */
  level: number;
}

/** Where the lines lie. */
export interface Scale {
  startHz: number;
  stepHz: number;
  /** The filter they were heard with, and how many of its bins a line is. */
  shape?: FilterShape;
  binsPerLine?: number;
}

/** Peaks of a line, highest first: local maxima (the first line of a plateau) that reach the least level, from which the line falls by at least the rise on
 *  both sides before it goes higher or ends; its ends are no peaks.
 *  @param levels dBm, shape [lines] @param least dBm @param rise dB, ≥ 0 */
export function peaksOf(
  levels: ArrayLike<number>,
  { least, rise }: { least: number; rise: number },
): number[] {
  const found: number[] = [];
  const n = levels.length;
  for (let i = 1; i < n - 1; i++) {
    const top = levels[i];
    if (!(top >= least) || !(levels[i - 1] < top)) continue;
    let after = i + 1;
    while (after < n && levels[after] === top) after++;
    if (after === n || !(levels[after] < top)) continue;
    if (falls(levels, i, -1, rise) && falls(levels, after - 1, 1, rise)) found.push(i);
  }
  return found.sort((a, b) => levels[b] - levels[a] || a - b);
}

/** Whether the line falls by a rise on one side before it goes higher or ends. */
function falls(levels: ArrayLike<number>, from: number, way: 1 | -1, rise: number): boolean {
  const top = levels[from];
  for (let i = from + way; i >= 0 && i < levels.length; i += way) {
    if (levels[i] > top) return false;
    if (top - levels[i] >= rise) return true;
  }
  return false;
}

/** A peak between the lines: by the response of the filter where it is known, else the vertex of the parabola through three levels in dB, which is exact for a
 *  Gaussian response (Gasior and Gonzalez, CERN-AB-2004-021). */
export function peakAt(levels: ArrayLike<number>, line: number, scale: Scale): Peak {
  const { startHz, stepHz, shape, binsPerLine } = scale;
  const [a, b, c] = [levels[line - 1], levels[line], levels[line + 1]];
  const bend = a - 2 * b + c;
  if (!(bend < 0)) return { line, hz: startHz + line * stepHz, level: b };
  const { shift, level } =
    shape && binsPerLine ? toneBetween({ shape, binsPerLine }, a, b, c) : parabola(a, b, c, bend);
  return { line, hz: startHz + (line + shift) * stepHz, level };
}

function parabola(a: number, b: number, c: number, bend: number): { shift: number; level: number } {
  const shift = Math.max(-0.5, Math.min(0.5, (a - c) / (2 * bend)));
  return { shift, level: b - ((a - c) * shift) / 4 };
}

/** The highest of a list; −1 where none is a number. */
export function highestLine(levels: ArrayLike<number>): number {
  let best = -1;
  for (let i = 0; i < levels.length; i++) if (levels[i] > (best < 0 ? -Infinity : levels[best])) best = i;
  return best;
}

/** From a place to the next peak. @param peaks lines @returns its line; null where there is none that way */
export function nextPeak(
  peaks: readonly number[],
  levels: ArrayLike<number>,
  from: number,
  way: 'left' | 'right' | 'lower' | 'higher',
): number | null {
  const level = levels[from];
  const order = peaks.filter((p) => p !== from);
  const pick = (fits: (p: number) => boolean, by: (p: number) => number) =>
    order.filter(fits).sort((a, b) => by(a) - by(b))[0] ?? null;
  if (way === 'left')
    return pick(
      (p) => p < from,
      (p) => from - p,
    );
  if (way === 'right')
    return pick(
      (p) => p > from,
      (p) => p - from,
    );
  if (way === 'lower')
    return pick(
      (p) => levels[p] < level || (levels[p] === level && p > from),
      (p) => -levels[p],
    );
  return pick(
    (p) => levels[p] > level,
    (p) => levels[p],
  );
}
