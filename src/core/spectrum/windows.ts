/** Generalised cosine windows by their coefficients: w(i) = Σ (-1)^k a_k cos(2πki/n) (Harris, Proc. IEEE 66(1), 1978;
 *  flat top: D'Antona and Ferrero, Digital Signal Processing for Measurement Systems, 2006). */
const COSINE_WINDOWS = {
  rectangular: [1],
  Hann: [0.5, 0.5],
  Hamming: [0.54, 0.46],
  'flat top': [0.21557895, 0.41663158, 0.277263158, 0.083578947, 0.006947368],
  'Blackman-Harris': [0.35875, 0.48829, 0.14128, 0.01168],
} as const;

/** Kaiser’s window stands with the β that brings its highest side lobe to −70, −90 and −120 dB or so. */
const KAISER_WINDOWS = { 'Kaiser β 6': 6, 'Kaiser β 8.6': 8.6, 'Kaiser β 14': 14 } as const;

export type WindowName = keyof typeof COSINE_WINDOWS | keyof typeof KAISER_WINDOWS;
export const WINDOW_NAMES = [...Object.keys(COSINE_WINDOWS), ...Object.keys(KAISER_WINDOWS)] as WindowName[];

/** A window for spectral work, which goes on where it begins, or one that ends as it begins, for filters. @param n length, ≥ 1
 *  @returns shape [n], dimensionless */
export function spectralWindow(
  name: WindowName,
  n: number,
  ends: 'periodic' | 'symmetric' = 'periodic',
): Float64Array {
  const period = Math.max(1, ends === 'periodic' ? n : n - 1);
  if (name in KAISER_WINDOWS)
    return kaiserWindow(KAISER_WINDOWS[name as keyof typeof KAISER_WINDOWS], n, period);
  const a = COSINE_WINDOWS[name as keyof typeof COSINE_WINDOWS];
  return Float64Array.from({ length: n }, (_, i) =>
    a.reduce((sum, ak, k) => sum + (k % 2 ? -ak : ak) * Math.cos((2 * Math.PI * k * i) / period), 0),
  );
}

/** Kaiser’s window I0(β √(1 − (2i/period − 1)²)) / I0(β) (Kaiser and Schafer, IEEE Trans. ASSP-28, 1980). @returns shape [n] */
export const kaiserWindow = (beta: number, n: number, period = n - 1): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => kaiserAt(beta, (2 * i) / Math.max(1, period) - 1));

/** The same at a place from −1 to 1 of its width. */
export const kaiserAt = (beta: number, x: number): number =>
  besselI0(beta * Math.sqrt(Math.max(0, 1 - x * x))) / besselI0(beta);

/** Modified Bessel function of the first kind, order 0: its power series (Abramowitz and Stegun, 9.6.12). */
function besselI0(x: number): number {
  const quarter = (x * x) / 4;
  let sum = 1;
  for (let k = 1, term = 1; term > sum * 1e-17; k++) sum += term *= quarter / (k * k);
  return sum;
}

/** Coherent gain Σw/n, by which a tone is lowered. @param window shape [n] */
export const coherentGain = (window: Float64Array) => sum(window, (w) => w) / window.length;

/** Equivalent noise bandwidth n·Σw² / (Σw)² in bins (Harris 1978, Table I): rectangular 1, periodic Hann 1.5.
 *  Multiply by sampleRateHz / n for Hz. @param window shape [n] */
export const noiseBandwidthBins = (window: Float64Array) =>
  (window.length * sum(window, (w) => w * w)) / sum(window, (w) => w) ** 2;

/** By how much a tone half way between two lines is read too low at the most, dB (Harris 1978): rectangular 3.92, Hann 1.42.
 *  @param window shape [n] */
export function scallopingDb(window: Float64Array): number {
  const between = (part: (angle: number) => number) =>
    window.reduce((all, w, i) => all + w * part((Math.PI * i) / window.length), 0);
  return -20 * Math.log10(Math.hypot(between(Math.cos), between(Math.sin)) / sum(window, (w) => w));
}

function sum(values: Float64Array, of: (value: number) => number): number {
  let total = 0;
  for (const value of values) total += of(value);
  return total;
}
