import { designFir } from '../filters/fir';
import { kaiserWindow } from '../spectrum/windows';

/** Kaiser’s window for 100 dB, and how many samples of the lower rate its skirts need on either side (Kaiser, 1974): from 0.8 of half the new
 *  rate, which passes to 0.1 %, to that half, from where nothing folds. */
const BETA = 0.1102 * (100 - 8.7);
const REACH = (100 - 8) / (2.285 * 2 * Math.PI * 0.1) / 2;
/** The filter in words. */
export const DECIMATING = 'a low-pass without delay, flat to 0.8 of half the new rate and down 100 dB at that half (Kaiser window)'; // prettier-ignore

/** Keeps one sample of so many, after a low-pass that takes away what would fold. Symmetric about each kept sample; the first kept one is the first
 *  that has all it needs. NaN goes as far as the filter reaches. */
export class Decimator {
  private readonly taps: Float64Array;
  private held: Float64Array;
  private filled = 0;

  /** @param factor a whole number from 1 up */
  constructor(private readonly factor: number) {
    const half = Math.ceil(REACH * factor);
    this.taps =
      factor === 1
        ? Float64Array.of(1)
        : designFir('low pass', [0.9 / (2 * factor)], kaiserWindow(BETA, 2 * half + 1), 1);
    this.held = new Float64Array(1 << 14);
  }

  /** Samples that the filter reaches to either side. */
  get reach(): number {
    return (this.taps.length - 1) / 2;
  }

  push(block: ArrayLike<number>): Float64Array {
    const { taps, factor } = this;
    if (factor === 1) return Float64Array.from(block);
    if (this.filled + block.length > this.held.length) {
      const more = new Float64Array(2 * (this.filled + block.length));
      more.set(this.held.subarray(0, this.filled));
      this.held = more;
    }
    this.held.set(block, this.filled);
    this.filled += block.length;
    const count = Math.max(0, Math.floor((this.filled - taps.length) / factor) + 1);
    const out = new Float64Array(count);
    for (let k = 0; k < count; k++) {
      let sum = 0;
      for (let i = 0, at = k * factor; i < taps.length; i++, at++) sum += taps[i] * this.held[at];
      out[k] = sum;
    }
    this.held.copyWithin(0, count * factor, this.filled);
    this.filled -= count * factor;
    return out;
  }
}
