import { kaiserWindow } from '../spectrum/windows';

/** Half of the taps of a half-band filter, at odd distances from its middle: all at even ones are 0 but the middle, which is 1/2. It passes up to
 *  0.05 of the rate and takes out by 78 dB from 0.45 of it on (Kaiser window; Vaidyanathan, Multirate Systems and Filter Banks, 4.6). */
const TAPS = (() => {
  const reach = 7;
  const window = kaiserWindow(0.1102 * (88 - 8.7), 2 * reach + 1);
  const plain = Array.from({ length: (reach + 1) / 2 }, (_, k) => {
    const at = 2 * k + 1;
    return (Math.sin((Math.PI * at) / 2) / (Math.PI * at)) * window[reach + at];
  });
  // A constant stays what it is: both sides and the middle make 1.
  const sum = 2 * plain.reduce((a, b) => a + b, 0);
  return Float64Array.from(plain, (t) => (t * 0.5) / sum);
})();

/** Every other sample, after a low-pass without delay: sample k lies at sample 2k. What is up to 0.1 of the new rate stays as it is, what would
 *  fold onto that is gone; what lies between may be folded, for whoever looks at a tenth of the rate only. At the ends the signal goes on as it ends; a gap takes what lies within 7 samples of it along.
 *  @returns half as many samples, the odd one up */
export function halved(x: Float32Array): Float32Array {
  const n = x.length;
  const out = new Float32Array(Math.ceil(n / 2));
  const reach = 2 * TAPS.length - 1;
  const at = (i: number) => x[Math.min(n - 1, Math.max(0, i))];
  const near = (k: number) => {
    out[k] = TAPS.reduce((sum, tap, t) => sum + tap * (at(2 * k - 2 * t - 1) + at(2 * k + 2 * t + 1)), 0.5 * x[2 * k]); // prettier-ignore
  };
  const [begin, end] = [Math.min(out.length, (reach + 1) / 2), Math.max(0, Math.ceil((n - reach) / 2))];
  for (let k = 0; k < begin; k++) near(k);
  const [a, b, c, d] = TAPS;
  for (let k = begin, i = 2 * begin; k < end; k++, i += 2)
    out[k] =
      0.5 * x[i] +
      a * (x[i - 1] + x[i + 1]) +
      b * (x[i - 3] + x[i + 3]) +
      c * (x[i - 5] + x[i + 5]) +
      d * (x[i - 7] + x[i + 7]);
  for (let k = Math.max(begin, end); k < out.length; k++) near(k);
  return out;
}
