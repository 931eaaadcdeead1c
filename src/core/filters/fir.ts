import { badInput } from '../errors';
import { checkEdges, type Band } from './design';

/** Taps of a filter by the window method: the ideal impulse response times a window, with gain 1 in the middle of its (first) pass band
 *  (Oppenheim and Schafer, Discrete-Time Signal Processing, 7.5). @param window symmetric, of odd length, which is that of the filter
 *  @throws `bad_input` for edges out of order, or an even number of taps */
export function designFir(
  band: Band,
  edgesHz: readonly number[],
  window: Float64Array,
  rateHz: number,
): Float64Array {
  checkEdges(band, edgesHz, rateHz);
  const n = window.length;
  if (n % 2 === 0)
    throw badInput('taps', n, 'An odd number has a middle: nothing is delayed by half a sample then.');
  const middle = (n - 1) / 2;
  const e = edgesHz.map((f) => (2 * f) / rateHz);
  const passes = {
    'low pass': [[0, e[0]]],
    'high pass': [[e[0], 1]],
    'band pass': [[e[0], e[1]]],
    'band stop': [
      [0, e[0]],
      [e[1], 1],
    ],
  }[band];
  const taps = window.map((w, i) => {
    const at = i - middle;
    return w * passes.reduce((sum, [from, to]) => sum + to * sinc(to * at) - from * sinc(from * at), 0);
  });
  const [from, to] = passes[0];
  const tuned = from === 0 ? 0 : to === 1 ? 1 : (from + to) / 2;
  const gain = taps.reduce((sum, t, i) => sum + t * Math.cos(Math.PI * (i - middle) * tuned), 0);
  return taps.map((t) => t / gain);
}

const sinc = (x: number) => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/** Response of taps about their middle: real, since they are symmetric, without their delay. */
export function firResponse(taps: Float64Array, hz: number, rateHz: number): number {
  const middle = (taps.length - 1) / 2;
  const w = (2 * Math.PI * hz) / rateHz;
  return taps.reduce((sum, t, i) => sum + t * Math.cos(w * (i - middle)), 0);
}

/** Σ taps(j)·x(i + taps.length − 1 − j) for every i at which all of it is there.
 *  @param x shape [n + taps.length − 1], without NaN @returns shape [n] */
export function convolve(x: Float64Array, taps: Float64Array): Float64Array {
  const length = taps.length;
  const out = new Float64Array(x.length - length + 1);
  const back = taps.toReversed();
  for (let i = 0; i < out.length; i++) {
    let a = 0;
    let b = 0;
    let j = 0;
    for (; j + 1 < length; j += 2) {
      a += back[j] * x[i + j];
      b += back[j + 1] * x[i + j + 1];
    }
    if (j < length) a += back[j] * x[i + j];
    out[i] = a + b;
  }
  return out;
}
