/** Generalised cosine windows by their coefficients: w(i) = Σ (-1)^k a_k cos(2πki/n) (Harris, Proc. IEEE 66(1), 1978;
 *  flat top: D'Antona and Ferrero, Digital Signal Processing for Measurement Systems, 2006). */
const COSINE_WINDOWS = {
  rectangular: [1],
  Hann: [0.5, 0.5],
  Hamming: [0.54, 0.46],
  'flat top': [0.21557895, 0.41663158, 0.277263158, 0.083578947, 0.006947368],
  'Blackman-Harris': [0.35875, 0.48829, 0.14128, 0.01168],
} as const;

export type WindowName = keyof typeof COSINE_WINDOWS;
export const WINDOW_NAMES = Object.keys(COSINE_WINDOWS) as WindowName[];

/** Periodic window for spectral work. @param n length, ≥ 1 @returns shape [n], dimensionless */
export function spectralWindow(name: WindowName, n: number): Float64Array {
  const a = COSINE_WINDOWS[name];
  return Float64Array.from({ length: n }, (_, i) =>
    a.reduce((sum, ak, k) => sum + (k % 2 ? -ak : ak) * Math.cos((2 * Math.PI * k * i) / n), 0),
  );
}

/** Coherent gain Σw/n, by which a tone is lowered. @param window shape [n] */
export const coherentGain = (window: Float64Array) => sum(window, (w) => w) / window.length;

/** Equivalent noise bandwidth n·Σw² / (Σw)² in bins (Harris 1978, Table I): rectangular 1, periodic Hann 1.5.
 *  Multiply by sampleRateHz / n for Hz. @param window shape [n] */
export const noiseBandwidthBins = (window: Float64Array) =>
  (window.length * sum(window, (w) => w * w)) / sum(window, (w) => w) ** 2;

function sum(values: Float64Array, of: (value: number) => number): number {
  let total = 0;
  for (const value of values) total += of(value);
  return total;
}
