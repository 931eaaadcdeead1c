import FFT from 'fft.js';
import { badInput } from '../errors';
import { spectralWindow, type WindowName } from './windows';

export interface CrossSpectrum {
  frequencyHz: Float64Array;
  /** One-sided densities, unit²/Hz, shape [segmentLength/2 + 1]. */
  pxx: Float64Array;
  pyy: Float64Array;
  /** Mean of conj(X)·Y. */
  pxy: { re: Float64Array; im: Float64Array };
  /** |Pxy|² / (Pxx·Pyy), 0 to 1; NaN where one of them is 0. */
  coherence: Float64Array;
  segments: number;
  /** Segments left out because a gap of one of the records lies in them. */
  skipped: number;
}

/** Averaged cross spectrum of two records by overlapping segments, each segment's mean removed (Bendat & Piersol, Random Data, ch. 11).
 *  H1 = Pxy/Pxx, H2 = Pyy/conj(Pxy). Both are real, so one complex transform of x + jy serves both.
 *  @param x shape [n] @param y shape [n]; NaN marks a gap
 *  @throws `bad_input` for unequal lengths, an overlap outside 0 to 0.95, or less than two whole segments */
export function crossSpectrum(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  options: { sampleRateHz: number; segmentLength: number; window: WindowName; overlap?: number },
): CrossSpectrum {
  const { sampleRateHz, segmentLength: n, window, overlap = 0.5 } = options;
  if (x.length !== y.length)
    throw badInput('records', `${x.length} and ${y.length}`, 'Give two of one length.');
  if (!(n >= 16 && Number.isInteger(Math.log2(n))))
    throw badInput('segment length', n, 'Give a power of two from 16 up.');
  if (!(overlap >= 0 && overlap <= 0.95)) throw badInput('overlap', overlap, 'Give a share from 0 to 0.95.');
  const step = n - Math.floor(n * overlap);
  if (x.length < n + step) throw badInput('record', `${x.length} samples`, `Give at least ${n + step}.`);
  const w = spectralWindow(window, n);
  const fft = new FFT(n);
  const pair = new Float64Array(2 * n);
  const out = new Float64Array(2 * n);
  const half = n / 2;
  const zeros = () => new Float64Array(half + 1);
  const [pxx, pyy, re, im] = [zeros(), zeros(), zeros(), zeros()];
  let segments = 0;
  let skipped = 0;
  for (let from = 0; from + n <= x.length; from += step) {
    let meanX = 0;
    let meanY = 0;
    for (let i = 0; i < n; i++) {
      meanX += x[from + i] / n;
      meanY += y[from + i] / n;
    }
    if (!Number.isFinite(meanX + meanY)) {
      skipped++;
      continue;
    }
    for (let i = 0; i < n; i++) {
      pair[2 * i] = (x[from + i] - meanX) * w[i];
      pair[2 * i + 1] = (y[from + i] - meanY) * w[i];
    }
    fft.transform(out, pair);
    for (let k = 0; k <= half; k++) {
      const m = (n - k) % n;
      const [a, b, c, d] = [out[2 * k], out[2 * k + 1], out[2 * m], out[2 * m + 1]];
      const [xr, xi, yr, yi] = [(a + c) / 2, (b - d) / 2, (b + d) / 2, (c - a) / 2];
      pxx[k] += xr * xr + xi * xi;
      pyy[k] += yr * yr + yi * yi;
      re[k] += xr * yr + xi * yi;
      im[k] += xr * yi - xi * yr;
    }
    segments++;
  }
  if (segments < 2)
    throw badInput(
      'records',
      `${segments} whole segments, ${skipped} with gaps`,
      'Give longer records, or shorter segments.',
    );
  let windowPower = 0;
  for (const v of w) windowPower += v * v;
  const coherence = pxx.map((p, k) => (re[k] ** 2 + im[k] ** 2) / (p * pyy[k]));
  const scale = (k: number) => (k === 0 || k === half ? 1 : 2) / (sampleRateHz * windowPower * segments);
  for (const part of [pxx, pyy, re, im]) part.forEach((v, k) => (part[k] = v * scale(k)));
  return {
    frequencyHz: Float64Array.from(pxx, (_, k) => (k * sampleRateHz) / n),
    pxx,
    pyy,
    pxy: { re, im },
    coherence,
    segments,
    skipped,
  };
}
