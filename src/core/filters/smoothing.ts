import { badInput } from '../errors';
import { orthogonalBasis } from '../fit/polynomial';

/** Weights that give the value (or the slope) of the polynomial of least squares through 2·half + 1 equally spaced values, at a place among
 *  them (Savitzky and Golay, Anal. Chem. 36, 1964). @param order 1 to 8, below 2·half + 1 @param at place, −half to half
 *  @param of its value, or its slope a sample @returns shape [2·half + 1] @throws `bad_input` for too few values */
export function localPolynomial(
  half: number,
  order: number,
  at = 0,
  of: 'value' | 'slope' = 'value',
): Float64Array {
  const places = Float64Array.from({ length: 2 * half + 1 }, (_, i) => i - half);
  const { basis } = orthogonalBasis(places, order);
  const x = at / half;
  const there = basis.map(({ poly }) =>
    of === 'value'
      ? poly.reduceRight((sum, c) => sum * x + c, 0)
      : poly.reduceRight((sum, c, p) => (p ? sum * x + p * c : sum), 0) / half,
  );
  return places.map((_, i) => basis.reduce((sum, { values }, k) => sum + values[i] * there[k], 0));
}

/** Each value’s local polynomial; near the ends that of the first and the last span. @param x without NaN @returns shape of x
 *  @throws `bad_input` where there are fewer values than a span has */
export function smoothedLocally(
  x: Float64Array,
  half: number,
  order: number,
  of: 'value' | 'slope' = 'value',
): Float64Array {
  const span = 2 * half + 1;
  const n = x.length;
  if (n < span)
    throw badInput(
      'span',
      `${span} samples`,
      `It is longer than ${n} samples without a gap: take a shorter one.`,
    );
  const out = new Float64Array(n);
  const put = (i: number, from: number, weights: Float64Array) => {
    let sum = 0;
    for (let k = 0; k < span; k++) sum += weights[k] * x[from + k];
    out[i] = sum;
  };
  const middle = localPolynomial(half, order, 0, of);
  for (let i = half; i < n - half; i++) put(i, i - half, middle);
  for (let i = 0; i < half; i++) {
    put(i, 0, localPolynomial(half, order, i - half, of));
    put(n - 1 - i, n - span, localPolynomial(half, order, half - i, of));
  }
  return out;
}

/** Mean of the 2·half + 1 values about each, of fewer at the ends. */
export function movingMeans(x: Float64Array, half: number): Float64Array {
  const n = x.length;
  const out = new Float64Array(n);
  // Sums are begun anew every so often: what has left the span leaves nothing behind for long.
  const anew = Math.max(1024, 2 * half + 1);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    const from = Math.max(0, i - half);
    const to = Math.min(n, i + half + 1);
    if (i % anew === 0) {
      sum = 0;
      for (let k = from; k < to; k++) sum += x[k];
    } else {
      if (i + half < n) sum += x[i + half];
      if (i - half > 0) sum -= x[i - half - 1];
    }
    out[i] = sum / (to - from);
  }
  return out;
}

/** Median of the 2·half + 1 values about each, of fewer at the ends. @param x without NaN */
export function movingMedians(x: Float64Array, half: number): Float64Array {
  const sorted: number[] = [];
  const place = (value: number) => {
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (sorted[mid] < value) low = mid + 1;
      else high = mid;
    }
    return low;
  };
  const add = (value: number) => sorted.splice(place(value), 0, value);
  for (let i = 0; i < Math.min(half, x.length); i++) add(x[i]);
  return x.map((_, i) => {
    if (i + half < x.length) add(x[i + half]);
    if (i - half > 0) sorted.splice(place(x[i - half - 1]), 1);
    const mid = sorted.length >> 1;
    return sorted.length % 2 ? sorted[mid] : (sorted[mid - 1] + sorted[mid]) / 2;
  });
}
