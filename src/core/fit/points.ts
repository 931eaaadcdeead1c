import { badInput } from '../errors';

/** Values of x that lie closer than this share of the largest are one reading: what parts them is rounding. */
const SAME = 1e-12;

/** Checks what a curve is to be laid through. @throws `bad_input` for unequal lengths or a value that is no number */
export function checkPoints(x: ArrayLike<number>, y: ArrayLike<number>): void {
  if (x.length !== y.length)
    throw badInput('points', `${x.length} x and ${y.length} y`, 'Give one y for each x.');
  for (let i = 0; i < x.length; i++)
    if (!Number.isFinite(x[i]) || !Number.isFinite(y[i]))
      throw badInput(
        'points',
        `${x[i]}, ${y[i]} at point ${i + 1}`,
        'Measure this point again, or leave it out.',
      );
}

/** Lowest and highest of some values. @param values shape [n ≥ 1], without NaN */
export function extremes(values: ArrayLike<number>): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < values.length; i++) {
    if (values[i] < low) low = values[i];
    if (values[i] > high) high = values[i];
  }
  return { low, high };
}

/** How many different readings there are, up to rounding. @param values shape [n], without NaN */
export function distinct(values: ArrayLike<number>): number {
  const sorted = Float64Array.from(values).sort();
  const near = SAME * Math.max(Math.abs(sorted[0] ?? 0), Math.abs(sorted[sorted.length - 1] ?? 0));
  let count = 0;
  let last = -Infinity;
  for (const v of sorted) {
    if (v - last > near) {
      count++;
      last = v;
    }
  }
  return count;
}
