import FFT from 'fft.js';
import { spectralWindow } from '../spectrum/windows';
import { MW_PER_V2, mw, quickLevels } from './levels';
import type { BandPlan } from './resolution';

/** How the transforms of one picture become its line. All but the mean of the levels are taken on power or, for the magnitude, on its root: over noise the
 *  mean of the magnitudes reads 1.05 dB, that of the levels 2.51 dB below the rms. */
export const DETECTORS = [
  'rms',
  'mean of the magnitudes',
  'mean of the levels',
  'highest',
  'lowest',
  'sample',
] as const;
export type Detector = (typeof DETECTORS)[number];

/** What was heard of a band between two looks. Powers in mW, one for each line. */
export interface BandPicture {
  /** Index of the first sample that went in, and of the one after the last. */
  firstSample: number;
  endSample: number;
  /** Transforms that went in. */
  transforms: number;
  /** By each detector. */
  powers: Record<Detector, Float64Array>;
  /** Samples that did not come or were no numbers: what lay in them may have been missed. */
  lost: number;
}

/** Hears a band of complex samples that come in blocks: windowed transforms that overlap by half, each line by every detector at once.
 *  Source: Welch, IEEE Trans. Audio Electroacoust. 15(2), 1967; detectors as CISPR 16-1-1 and ITU-R SM.443 name them. */
export class BandListener {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly input: Float64Array;
  private readonly output: Float64Array;
  /** Samples that wait for their window to be full: I and Q in turn. */
  private readonly held: Float32Array;
  private filled = 0;
  private next = -1;
  private lost = 0;
  private firstSample = -1;
  private transforms = 0;
  private readonly smoothed: Float64Array;
  private fresh = true;
  private readonly sum: Float64Array;
  private readonly roots: Float64Array;
  private readonly levels: Float64Array;
  private readonly high: Float64Array;
  private readonly low: Float64Array;
  private readonly last: Float64Array;
  /** Levels of the present transform, dBm. */
  private readonly db: Float32Array;
  /** Powers of the present transform, mW. */
  private readonly powers: Float32Array;

  /** @param each told every single transform: levels in dBm, shape [lines]; the array is used again
   *  @param only rms: nothing else is computed, for what reads powers all the time */
  constructor(
    readonly plan: BandPlan,
    private readonly each: ((levels: Float32Array) => void) | null = null,
    private readonly only: 'rms' | null = null,
  ) {
    const { transformLength: n, windowLength, lines } = plan;
    this.fft = new FFT(n);
    this.window = spectralWindow(plan.shape, windowLength);
    const gain = this.window.reduce((a, w) => a + w, 0);
    const scale = Math.sqrt(MW_PER_V2) / gain;
    for (let i = 0; i < windowLength; i++) this.window[i] *= scale;
    this.input = new Float64Array(2 * n);
    this.output = new Float64Array(2 * n);
    this.held = new Float32Array(2 * windowLength);
    this.smoothed = new Float64Array(lines);
    this.sum = new Float64Array(lines);
    this.roots = new Float64Array(lines);
    this.levels = new Float64Array(lines);
    this.high = new Float64Array(lines);
    this.low = new Float64Array(lines);
    this.last = new Float64Array(lines);
    this.db = new Float32Array(lines);
    this.powers = new Float32Array(lines);
    this.clear();
  }

  /** What comes next follows nothing: no sample is lost before it. */
  restart(): void {
    this.next = -1;
    this.filled = 0;
    this.fresh = true;
  }

  /** @param iq complex samples, V rms over 50 Ω, I and Q in turn @param first index of the block’s first sample */
  push(iq: Float32Array, first: number): void {
    const { windowLength, step } = this.plan;
    if (first !== this.next) {
      if (this.next >= 0) this.lost += Math.max(0, first - this.next);
      this.filled = 0;
      this.fresh = true;
    }
    const count = iq.length / 2;
    for (let at = 0; at < count;) {
      const take = Math.min(windowLength - this.filled, count - at);
      this.held.set(iq.subarray(2 * at, 2 * (at + take)), 2 * this.filled);
      this.filled += take;
      at += take;
      if (this.filled < windowLength) break;
      this.transform(first + at - windowLength);
      this.held.copyWithin(0, 2 * step);
      this.filled = windowLength - step;
    }
    this.next = first + count;
  }

  private transform(first: number): void {
    const { held, window, input, output } = this;
    const { windowLength, transformLength: n, firstLine, lines, step } = this.plan;
    for (let i = 0, k = 0; i < windowLength; i++, k += 2) {
      const w = window[i];
      input[k] = held[k] * w;
      input[k + 1] = held[k + 1] * w;
    }
    this.fft.transform(output, input);
    if (output[0] !== output[0]) {
      // A sample that is no number is in every line of it.
      this.lost += step;
      this.fresh = true;
      return;
    }
    const { sum, powers } = this;
    // Lines left of the centre lie behind those right of it.
    const turn = Math.min(lines, Math.max(0, n / 2 - firstLine));
    const from = 2 * (firstLine + n / 2);
    this.powersOf(0, turn, from);
    this.powersOf(turn, lines, from - 2 * n);
    if (this.only) {
      for (let l = 0; l < lines; l++) sum[l] += powers[l];
    } else this.detect();
    this.fresh = false;
    if (this.firstSample < 0) this.firstSample = first;
    this.transforms++;
    this.each?.(this.db);
  }

  /** The present transform goes into every detector. */
  private detect(): void {
    const { sum, roots, levels, high, low, last, db, powers } = this;
    quickLevels(powers, db);
    for (let l = 0; l < powers.length; l++) {
      const p = powers[l];
      sum[l] += p;
      roots[l] += Math.sqrt(p);
      levels[l] += db[l];
      if (p > high[l]) high[l] = p;
      if (p < low[l]) low[l] = p;
      last[l] = p;
    }
  }

  /** Powers of heard lines [from, to), smoothed where that is asked for. @param at place of line 0 in the transform */
  private powersOf(from: number, to: number, at: number): void {
    const { output, powers, smoothed } = this;
    const { smoothing } = this.plan;
    if (smoothing === 1) {
      for (let l = from, k = at + 2 * from; l < to; l++, k += 2)
        powers[l] = output[k] * output[k] + output[k + 1] * output[k + 1];
      return;
    }
    const share = this.fresh ? 1 : smoothing;
    for (let l = from, k = at + 2 * from; l < to; l++, k += 2) {
      const p = output[k] * output[k] + output[k + 1] * output[k + 1];
      smoothed[l] += share * (p - smoothed[l]);
      powers[l] = smoothed[l];
    }
  }

  private clear(): void {
    this.sum.fill(0);
    this.roots.fill(0);
    this.levels.fill(0);
    this.high.fill(0);
    this.low.fill(Infinity);
    this.transforms = this.lost = 0;
    this.firstSample = -1;
  }

  /** What came since the last look; null where not one window was full. */
  look(): BandPicture | null {
    const { transforms: n, sum, roots, levels, high, low, last } = this;
    if (n === 0) return null;
    const picture: BandPicture = {
      firstSample: this.firstSample,
      endSample: this.next,
      transforms: n,
      powers: {
        rms: sum.map((v) => v / n),
        'mean of the magnitudes': roots.map((v) => (v / n) ** 2),
        'mean of the levels': levels.map((v) => mw(v / n)),
        highest: high.slice(),
        lowest: low.slice(),
        sample: last.slice(),
      },
      lost: this.lost,
    };
    this.clear();
    return picture;
  }
}
