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

interface CrossOptions {
  sampleRateHz: number;
  /** Samples, a power of two from 16 up. */
  segmentLength: number;
  window: WindowName;
  /** Share of a segment that the next one repeats, 0 to 0.95; a half where none is given. */
  overlap?: number;
}

/** Averaged cross spectrum of two records by overlapping segments, each segment's mean removed (Bendat & Piersol, Random Data, ch. 11).
 *  H1 = Pxy/Pxx, H2 = Pyy/conj(Pxy). Both are real, so one complex transform of x + jy serves both. They come in blocks of one length; NaN marks a gap:
 *  segments that hold one are left out. */
export class CrossAverage {
  private readonly n: number;
  private readonly step: number;
  private readonly window: Float64Array;
  private readonly fft: FFT;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private filled = 0;
  private readonly sums: { pxx: Float64Array; pyy: Float64Array; re: Float64Array; im: Float64Array };
  private segments = 0;
  private skipped = 0;

  /** @throws `bad_input` for a length that is no power of two, or an overlap outside 0 to 0.95 */
  constructor(private readonly options: CrossOptions) {
    const { segmentLength: n, window, overlap = 0.5 } = options;
    if (!(n >= 16 && Number.isInteger(Math.log2(n))))
      throw badInput('segment length', n, 'Give a power of two from 16 up.');
    if (!(overlap >= 0 && overlap <= 0.95))
      throw badInput('overlap', overlap, 'Give a share from 0 to 0.95.');
    this.n = n;
    this.step = n - Math.floor(n * overlap);
    this.window = spectralWindow(window, n);
    this.fft = new FFT(n);
    [this.x, this.y] = [new Float64Array(n), new Float64Array(n)];
    const zeros = () => new Float64Array(n / 2 + 1);
    this.sums = { pxx: zeros(), pyy: zeros(), re: zeros(), im: zeros() };
  }

  /** @param x shape [m] @param y shape [m] */
  push(x: ArrayLike<number>, y: ArrayLike<number>): void {
    for (let i = 0; i < x.length; i++) {
      this.x[this.filled] = x[i];
      this.y[this.filled] = y[i];
      if (++this.filled < this.n) continue;
      this.add();
      this.x.copyWithin(0, this.step);
      this.y.copyWithin(0, this.step);
      this.filled = this.n - this.step;
    }
  }

  private add(): void {
    const { x, y, n, window: w, fft } = this;
    let [meanX, meanY] = [0, 0];
    for (let i = 0; i < n; i++) {
      meanX += x[i] / n;
      meanY += y[i] / n;
    }
    if (!Number.isFinite(meanX + meanY)) {
      this.skipped++;
      return;
    }
    const pair = new Float64Array(2 * n);
    const out = new Float64Array(2 * n);
    for (let i = 0; i < n; i++) {
      pair[2 * i] = (x[i] - meanX) * w[i];
      pair[2 * i + 1] = (y[i] - meanY) * w[i];
    }
    fft.transform(out, pair);
    const { pxx, pyy, re, im } = this.sums;
    for (let k = 0; k <= n / 2; k++) {
      const m = (n - k) % n;
      const [a, b, c, d] = [out[2 * k], out[2 * k + 1], out[2 * m], out[2 * m + 1]];
      const [xr, xi, yr, yi] = [(a + c) / 2, (b - d) / 2, (b + d) / 2, (c - a) / 2];
      pxx[k] += xr * xr + xi * xi;
      pyy[k] += yr * yr + yi * yi;
      re[k] += xr * yr + xi * yi;
      im[k] += xr * yi - xi * yr;
    }
    this.segments++;
  }

  /** @throws `bad_input` where less than two whole segments came */
  result(): CrossSpectrum {
    const { n, segments, skipped, window, options } = this;
    if (segments < 2)
      throw badInput(
        'records',
        `${segments} whole segments, ${skipped} with gaps`,
        'Give longer records, or shorter segments.',
      );
    let windowPower = 0;
    for (const v of window) windowPower += v * v;
    const { pxx, pyy, re, im } = this.sums;
    const coherence = pxx.map((p, k) => (re[k] ** 2 + im[k] ** 2) / (p * pyy[k]));
    const scaled = (part: Float64Array) =>
      part.map(
        (v, k) => (v * (k === 0 || k === n / 2 ? 1 : 2)) / (options.sampleRateHz * windowPower * segments),
      );
    return {
      frequencyHz: Float64Array.from(pxx, (_, k) => (k * options.sampleRateHz) / n),
      pxx: scaled(pxx),
      pyy: scaled(pyy),
      pxy: { re: scaled(re), im: scaled(im) },
      coherence,
      segments,
      skipped,
    };
  }

  /** How many segments without overlap would scatter as much: neighbours that overlap share a part (Welch, IEEE Trans. AU-15, 1967). */
  get independent(): number {
    const { window: w, n, step, segments } = this;
    let power = 0;
    for (const v of w) power += v * v;
    let sum = 1;
    for (let j = 1; j * step < n && j < segments; j++) {
      let shared = 0;
      for (let i = j * step; i < n; i++) shared += w[i] * w[i - j * step];
      sum += 2 * (1 - j / segments) * (shared / power) ** 2;
    }
    return segments / sum;
  }
}

/** The same of two records that lie in memory. @param x shape [n] @param y shape [n]
 *  @throws `bad_input` for unequal lengths, an overlap outside 0 to 0.95, or less than two whole segments */
export function crossSpectrum(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  options: CrossOptions,
): CrossSpectrum {
  if (x.length !== y.length)
    throw badInput('records', `${x.length} and ${y.length}`, 'Give two of one length.');
  const average = new CrossAverage(options);
  average.push(x, y);
  return average.result();
}
