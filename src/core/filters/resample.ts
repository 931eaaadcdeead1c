import { kaiserAt } from '../spectrum/windows';
import { hz, type Rate } from '../time/rate';

/** Share of the narrower band that passes unchanged; half its rate and above is down by 100 dB. */
const FLAT = 0.8;
/** β and half width (in samples of the lower rate) of the Kaiser window that does it (Kaiser and Schafer 1980): A = 100 dB over a
 *  transition of 0.2 of half the rate. */
const BETA = 0.1102 * (100 - 8.7);
const HALF = (100 - 8) / (2.285 * 2 * Math.PI * 0.5 * (1 - FLAT)) / 2;
/** Phases of the filter that are kept for a sample of the lower rate; between them a straight line differs by less than 1e-7. */
const PHASES = 4096;

/** From one rate to another, whatever their ratio: a low-pass at the lower of the two, read at the instants of the new grid. */
export class Resampler {
  /** Samples of the source that one value needs on either side. */
  readonly reach: number;
  /** Source samples from one value of the new grid to the next. */
  private readonly step: number;
  private readonly exact: { num: bigint; den: bigint };
  /** Taps of each phase, from the sample `reach − 1` before to `reach` after. */
  private readonly taps: Float64Array;
  private readonly width: number;
  private readonly phases: number;

  constructor(from: Rate, to: Rate) {
    this.step = hz(from) / hz(to);
    this.exact = { num: BigInt(from.num) * BigInt(to.den), den: BigInt(from.den) * BigInt(to.num) };
    const slower = Math.max(1, this.step);
    this.reach = Math.ceil(HALF * slower);
    this.width = 2 * this.reach;
    const edge = (1 + FLAT) / 2 / slower;
    const phases = (this.phases = Math.ceil(PHASES / slower));
    this.taps = new Float64Array((phases + 1) * this.width);
    for (let p = 0; p <= phases; p++) {
      let sum = 0;
      for (let k = 0; k < this.width; k++) {
        const x = k - (this.reach - 1) - p / phases;
        const inside = Math.abs(x) < HALF * slower;
        const tap = inside
          ? (x === 0 ? edge : Math.sin(Math.PI * edge * x) / (Math.PI * x)) *
            kaiserAt(BETA, x / (HALF * slower))
          : 0;
        this.taps[p * this.width + k] = tap;
        sum += tap;
      }
      // A constant stays what it is, to the last digit.
      for (let k = 0; k < this.width; k++) this.taps[p * this.width + k] /= sum;
    }
  }

  /** Source sample at or before a value of the new grid, which begins with the source’s sample 0. */
  before(index: number): number {
    return Number((BigInt(index) * this.exact.num) / this.exact.den);
  }

  /** Values [first, first + count) of the new grid. @param read source samples [from, from + count), NaN where there is none
   *  @returns NaN where one of the samples around it is */
  read(first: number, count: number, read: (from: number, count: number) => ArrayLike<number>): Float64Array {
    const { num, den } = this.exact;
    const { reach, width, taps, phases } = this;
    const begin = this.before(first) - reach + 1;
    const source = read(begin, this.before(first + count - 1) + reach + 1 - begin);
    const out = new Float64Array(count);
    // The place of each from its index: exact at the first, then within rounding of one chunk.
    const start = Number((((BigInt(first) * num) % den) * 1_000_000_000n) / den) / 1e9;
    for (let i = 0; i < count; i++) {
      const place = start + i * this.step;
      const whole = Math.floor(place + 1e-9);
      const phase = Math.max(0, place - whole) * phases;
      const low = Math.min(phases - 1, Math.floor(phase));
      const share = phase - low;
      const a = low * width;
      const b = a + width;
      let sum = 0;
      if (share < 1e-6) for (let k = 0; k < width; k++) sum += taps[a + k] * source[whole + k];
      else
        for (let k = 0; k < width; k++)
          sum += (taps[a + k] + share * (taps[b + k] - taps[a + k])) * source[whole + k];
      out[i] = sum;
    }
    return out;
  }
}
