import FFT from 'fft.js';
import { badInput } from '../errors';

export interface Lag {
  /** How much later the second signal is, in samples; fractions by a parabola through the highest coefficient and its neighbours. */
  samples: number;
  /** Normalised cross-correlation there, −1 to 1. */
  coefficient: number;
}

/** How far two signals of one rate are apart in time: where their normalised cross-correlation is highest. Each coefficient is that of the
 *  part in which they overlap, with the mean of each part taken away (Pearson), so that neither offset nor gain counts.
 *  @param a shape [n] @param b shape [m]; missing values in both stand as NaN and count as the mean
 *  @param least share of the shorter one that has to overlap, above 0 to 1
 *  @throws `bad_input` where one has no variation */
export function bestLag(a: ArrayLike<number>, b: ArrayLike<number>, least = 0.5): Lag {
  const [x, y] = [centred(a), centred(b)];
  const overlap = Math.max(2, Math.ceil(least * Math.min(x.length, y.length)));
  const cross = products(x, y);
  const [sx, sy] = [sums(x), sums(y)];
  const [first, last] = [overlap - x.length, y.length - overlap];
  let best = { lag: 0, value: -Infinity };
  const coefficient = (lag: number): number => {
    // b[i + lag] stands beside a[i].
    const [from, to] = [Math.max(0, -lag), Math.min(x.length, y.length - lag)];
    const n = to - from;
    if (n < overlap) return NaN;
    const [ax, axx] = sx(from, to);
    const [by, byy] = sy(from + lag, to + lag);
    const [vx, vy] = [axx - (ax * ax) / n, byy - (by * by) / n];
    return vx > 0 && vy > 0 ? (cross(lag) - (ax * by) / n) / Math.sqrt(vx * vy) : NaN;
  };
  for (let lag = first; lag <= last; lag++) {
    const value = coefficient(lag);
    if (value > best.value) best = { lag, value };
  }
  if (best.value === -Infinity) throw badInput('channel', 'no variation', 'Choose a channel that changes.');
  const [before, after] = [coefficient(best.lag - 1), coefficient(best.lag + 1)];
  const bend = before - 2 * best.value + after;
  const shift = bend < 0 ? (before - after) / (2 * bend) : 0;
  return {
    samples: best.lag + (Number.isFinite(shift) ? shift : 0),
    coefficient: Math.min(1, Math.max(-1, best.value)),
  };
}

function centred(values: ArrayLike<number>): Float64Array {
  let sum = 0;
  let n = 0;
  for (let i = 0; i < values.length; i++)
    if (values[i] === values[i]) {
      sum += values[i];
      n++;
    }
  const mean = sum / n;
  return Float64Array.from(values, (v) => (v === v ? v - mean : 0));
}

/** Sum and sum of squares of any part, from running sums. */
function sums(x: Float64Array): (from: number, to: number) => [sum: number, squares: number] {
  const sum = new Float64Array(x.length + 1);
  const squares = new Float64Array(x.length + 1);
  for (let i = 0; i < x.length; i++) {
    sum[i + 1] = sum[i] + x[i];
    squares[i + 1] = squares[i] + x[i] * x[i];
  }
  return (from, to) => [sum[to] - sum[from], squares[to] - squares[from]];
}

/** Σ x[i]·y[i + lag] for any lag, by one transform of both padded with zeros. */
function products(x: Float64Array, y: Float64Array): (lag: number) => number {
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, x.length + y.length)));
  const fft = new FFT(size);
  const both = new Float64Array(2 * size);
  for (let i = 0; i < x.length; i++) both[2 * i] = x[i];
  for (let i = 0; i < y.length; i++) both[2 * i + 1] = y[i];
  const spectrum = new Float64Array(2 * size);
  fft.transform(spectrum, both);
  // x and y as real and imaginary parts of one signal: conj(X)·Y from its halves.
  const product = new Float64Array(2 * size);
  for (let k = 0; k < size; k++) {
    const m = (size - k) % size;
    const [a, b, c, d] = [spectrum[2 * k], spectrum[2 * k + 1], spectrum[2 * m], spectrum[2 * m + 1]];
    const [xr, xi, yr, yi] = [(a + c) / 2, (b - d) / 2, (b + d) / 2, (c - a) / 2];
    product[2 * k] = xr * yr + xi * yi;
    product[2 * k + 1] = xr * yi - xi * yr;
  }
  const out = new Float64Array(2 * size);
  fft.inverseTransform(out, product);
  return (lag) => out[2 * ((lag + size) % size)];
}
