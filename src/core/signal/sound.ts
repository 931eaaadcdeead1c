import FFT from 'fft.js';
import { weightingDb, type Weighting } from '../spectrum/bands';

/** Frequency weighting of a signal of any length, exact up to half the sample rate and without delay: segments under a Hann window that add up to
 *  one are weighted line by line (overlap-add; Oppenheim and Schafer, 8.7). Fed block by block; gaps count as 0 and come out as NaN. */
export class WeightedSignal {
  private readonly fft: FFT;
  private readonly gain: Float64Array;
  private readonly window: Float64Array;
  private readonly waiting: Float64Array;
  private readonly sum: Float64Array;
  private readonly spectrum: Float64Array;
  private readonly work: Float64Array;
  private filled: number;
  private skip: number;
  private length = 0;
  private told = 0;

  /** @param each gets weighted samples in their order */
  constructor(
    weighting: Weighting,
    sampleRateHz: number,
    private readonly each: (values: Float64Array) => void,
    private readonly n = Math.max(1024, 2 ** Math.ceil(Math.log2(sampleRateHz / 2))),
  ) {
    this.fft = new FFT(n);
    this.gain = Float64Array.from({ length: n }, (_, k) => {
      const db = weightingDb(weighting, (Math.min(k, n - k) * sampleRateHz) / n);
      return db === -Infinity ? 0 : 10 ** (db / 20);
    });
    this.window = Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));
    this.waiting = new Float64Array(n);
    this.sum = new Float64Array(n);
    this.spectrum = new Float64Array(2 * n);
    this.work = new Float64Array(2 * n);
    // Half a segment of silence before: the first samples stand under two windows, too.
    this.filled = n / 2;
    this.skip = n / 2;
  }

  push(block: ArrayLike<number>): void {
    this.length += block.length;
    for (let i = 0; i < block.length; i++) {
      this.waiting[this.filled++] = block[i];
      if (this.filled === this.n) this.segment();
    }
  }

  /** Tells what is left. */
  finish(): void {
    while (this.told < this.length) {
      this.waiting.fill(0, this.filled);
      this.segment();
    }
  }

  private segment(): void {
    const { n, waiting, sum, work, spectrum, gain, window } = this;
    for (let i = 0; i < n; i++) {
      const value = waiting[i];
      work[2 * i] = value === value ? value * window[i] : 0;
      work[2 * i + 1] = 0;
    }
    this.fft.transform(spectrum, work);
    for (let k = 0; k < n; k++) {
      spectrum[2 * k] *= gain[k];
      spectrum[2 * k + 1] *= gain[k];
    }
    this.fft.inverseTransform(work, spectrum);
    for (let i = 0; i < n; i++) sum[i] += work[2 * i];
    // The first half has had both its windows.
    const half = n / 2;
    const count = Math.min(half - this.skip < 0 ? 0 : half - this.skip, this.length - this.told);
    if (count > 0) {
      const out = new Float64Array(count);
      for (let i = 0; i < count; i++) out[i] = waiting[i] === waiting[i] ? sum[i] : NaN;
      this.each(out);
      this.told += count;
    }
    this.skip = 0;
    sum.copyWithin(0, half);
    sum.fill(0, half);
    waiting.copyWithin(0, half);
    this.filled = half;
  }
}

export const TIME_WEIGHTINGS = ['fast', 'slow', 'impulse'] as const;
export type TimeWeighting = (typeof TIME_WEIGHTINGS)[number];
/** Time constants of IEC 61672-1 (fast, slow) and of the former IEC 60651 (impulse, which falls by 2.9 dB a second), s. */
const TAU = { fast: 0.125, slow: 1, impulse: 0.035 } as const;
const IMPULSE_FALL_S = 1.5;

/** Exponentially weighted mean square: y(i) = a·y(i − 1) + (1 − a)·p²(i), a = exp(−1/(rate·τ)), from rest. What is missing leaves it as it is. */
export class WeightedSquare {
  private readonly a: number;
  private readonly fall: number;
  private mean = 0;
  private held = 0;

  constructor(
    private readonly weighting: TimeWeighting,
    sampleRateHz: number,
  ) {
    this.a = Math.exp(-1 / (sampleRateHz * TAU[weighting]));
    this.fall = Math.exp(-1 / (sampleRateHz * IMPULSE_FALL_S));
  }

  /** @param square of one weighted sample @returns the weighted mean square now */
  step(square: number): number {
    if (square === square) {
      this.mean = this.a * this.mean + (1 - this.a) * square;
      if (this.weighting === 'impulse') this.held = Math.max(this.mean, this.held * this.fall);
    }
    return this.weighting === 'impulse' ? this.held : this.mean;
  }
}

/** Level that is exceeded during a share of the time: the (share·n)-th largest of equal times. @param sorted levels from the highest */
export const exceededLevel = (sorted: ArrayLike<number>, percent: number): number =>
  sorted.length === 0
    ? NaN
    : sorted[Math.min(sorted.length - 1, Math.max(0, Math.ceil((percent / 100) * sorted.length - 1e-9) - 1))];
