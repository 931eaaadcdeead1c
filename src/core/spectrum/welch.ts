import FFT from 'fft.js';
import { badInput } from '../errors';
import { noiseBandwidthBins, spectralWindow, type WindowName } from './windows';

export interface WelchOptions {
  sampleRateHz: number;
  /** Samples in a segment, a power of two from 16 up. */
  segmentLength: number;
  window: WindowName;
  /** Share of a segment that the next one repeats, 0 to below 1. @default 0.5 */
  overlap?: number;
  /** Take each segment's mean away before windowing. @default true */
  removeMean?: boolean;
  /** What becomes of the segments: their mean, the highest of each line, or a mean in which each weighs less than the one after it, with
   *  so many segments as its constant. @default 'mean' */
  averaging?: 'mean' | 'highest' | { recent: number };
}

export interface AveragedSpectrum {
  frequencyHz: Float64Array;
  /** One-sided power spectral density, unit²/Hz, shape [segmentLength/2 + 1]. */
  density: Float64Array;
  /** Averaged segments. */
  segments: number;
  /** Segments left out because a gap lies in them. */
  skipped: number;
  /** Distance of the lines, Hz. */
  resolutionHz: number;
  noiseBandwidthHz: number;
}

/** Averaged one-sided spectrum by overlapping segments (Welch, IEEE Trans. AU-15, 1967), fed block by block.
 *  Two segments share one complex transform: x = a + jb, A = (X(k) + X*(n-k))/2, B = (X(k) - X*(n-k))/2j, so
 *  |A|² + |B|² = (|X(k)|² + |X(n-k)|²)/2. */
export class Welch {
  private readonly n: number;
  private readonly step: number;
  private readonly window: Float64Array;
  private readonly fft: FFT;
  private readonly pair: Float64Array;
  private readonly spectrum: Float64Array;
  private readonly power: Float64Array;
  private readonly pending: Float64Array;
  private filled = 0;
  private waiting = false;
  private segments = 0;
  private taken = 0;
  private skipped = 0;

  /** @throws `bad_input` for a segment length that is no power of two or an overlap outside 0 to 0.95 */
  constructor(private readonly options: WelchOptions) {
    const { segmentLength: n, overlap = 0.5 } = options;
    if (!(n >= 16 && Number.isInteger(Math.log2(n))))
      throw badInput('segment length', n, 'Give a power of two from 16 up.');
    if (!(overlap >= 0 && overlap <= 0.95))
      throw badInput('overlap', overlap, 'Give a share from 0 to 0.95.');
    if (!(options.sampleRateHz > 0))
      throw badInput('sample rate', options.sampleRateHz, 'Give a rate above 0 Hz.');
    this.n = n;
    this.step = n - Math.floor(n * overlap);
    this.window = spectralWindow(options.window, n);
    this.fft = new FFT(n);
    this.pair = new Float64Array(2 * n);
    this.spectrum = new Float64Array(2 * n);
    this.power = new Float64Array(n / 2 + 1);
    this.pending = new Float64Array(n);
  }

  /** @param block shape [any], in the signal's unit; NaN marks a gap */
  push(block: ArrayLike<number>): void {
    const { n, step, pending } = this;
    let read = 0;
    while (read < block.length) {
      const take = Math.min(n - this.filled, block.length - read);
      for (let i = 0; i < take; i++) pending[this.filled + i] = block[read + i];
      this.filled += take;
      read += take;
      if (this.filled < n) break;
      this.addSegment();
      pending.copyWithin(0, step);
      this.filled = n - step;
    }
  }

  private addSegment(): void {
    const { n, pair, window, pending } = this;
    let mean = 0;
    if (this.options.removeMean ?? true) {
      for (let i = 0; i < n; i++) mean += pending[i];
      mean /= n;
    }
    const lane = this.waiting ? 1 : 0;
    let check = 0;
    for (let i = 0, j = lane; i < n; i++, j += 2) {
      const value = (pending[i] - mean) * window[i];
      pair[j] = value;
      check += value;
    }
    if (check !== check) {
      this.skipped++;
      return;
    }
    this.segments++;
    if (this.waiting) this.transformPair();
    this.waiting = !this.waiting;
  }

  private transformPair(): void {
    const { n, spectrum, power } = this;
    this.fft.transform(spectrum, this.pair);
    const half = n >> 1;
    if ((this.options.averaging ?? 'mean') !== 'mean') {
      this.one(0);
      if (this.waiting) this.one(1);
      return;
    }
    power[0] += spectrum[0] ** 2 + spectrum[1] ** 2;
    power[half] += spectrum[n] ** 2 + spectrum[n + 1] ** 2;
    for (let k = 1, lo = 2, hi = 2 * n - 2; k < half; k++, lo += 2, hi -= 2) {
      const a = spectrum[lo];
      const b = spectrum[lo + 1];
      const c = spectrum[hi];
      const d = spectrum[hi + 1];
      power[k] += (a * a + b * b + c * c + d * d) / 2;
    }
  }

  /** Takes in the segment of one lane of the transform: A = (X(k) + X*(n − k))/2, B = (X(k) − X*(n − k))/2j. */
  private one(lane: 0 | 1): void {
    const { n, spectrum, power } = this;
    const { averaging } = this.options;
    // The first of a weighted mean counts whole.
    const share =
      typeof averaging === 'object' ? Math.max(1 / averaging.recent, this.taken === 0 ? 1 : 0) : 1;
    this.taken++;
    for (let k = 0; k <= n >> 1; k++) {
      const other = k === 0 ? 0 : n - k;
      const [a, b, c, d] = [
        spectrum[2 * k],
        spectrum[2 * k + 1],
        spectrum[2 * other],
        spectrum[2 * other + 1],
      ];
      const value = lane === 0 ? ((a + c) ** 2 + (b - d) ** 2) / 4 : ((a - c) ** 2 + (b + d) ** 2) / 4;
      if (averaging === 'highest') power[k] = Math.max(power[k], value);
      else power[k] += share * (value - power[k]);
    }
  }

  /** The average so far. @throws `bad_input` when no whole segment was fed */
  result(): AveragedSpectrum {
    const { n, power } = this;
    const { sampleRateHz } = this.options;
    if (this.waiting) {
      // The last odd segment goes alone: an empty partner adds nothing.
      for (let j = 1; j < 2 * n; j += 2) this.pair[j] = 0;
      this.waiting = false;
      this.transformPair();
    }
    if (this.segments === 0)
      throw badInput(
        'span',
        `shorter than one segment of ${n} samples, or full of gaps`,
        'Choose a longer span or a shorter segment.',
      );
    let windowPower = 0;
    for (const w of this.window) windowPower += w * w;
    const counted = (this.options.averaging ?? 'mean') === 'mean' ? this.segments : 1;
    const scale = 1 / (sampleRateHz * windowPower * counted);
    const half = n >> 1;
    const density = power.map((p, k) => p * scale * (k === 0 || k === half ? 1 : 2));
    const resolutionHz = sampleRateHz / n;
    return {
      frequencyHz: Float64Array.from(density, (_, k) => k * resolutionHz),
      density,
      segments: this.segments,
      skipped: this.skipped,
      resolutionHz,
      noiseBandwidthHz: noiseBandwidthBins(this.window) * resolutionHz,
    };
  }
}

/** Averaged spectrum of a whole record. @param signal shape [n] @throws as Welch */
export function welch(signal: ArrayLike<number>, options: WelchOptions): AveragedSpectrum {
  const average = new Welch(options);
  average.push(signal);
  return average.result();
}

/** Rms amplitude of the tone at each line, from a density: sqrt(density · noise bandwidth), unit.
 *  A tone between two lines reads low by the window's scalloping loss. */
export const rmsAmplitude = (spectrum: AveragedSpectrum) =>
  spectrum.density.map((d) => Math.sqrt(d * spectrum.noiseBandwidthHz));
