import { kaiserWindow } from '../spectrum/windows';

/** Share of the output rate that passes: the rest is the slope of the filter. */
const PASSES = 0.8;
/** Half length of the filter in output samples: 70 dB beside the slope (Kaiser and Schafer, IEEE Trans. ASSP-28, 1980). */
const HALF = 12;

/** One channel out of a band: mixed to its own centre, filtered and thinned to the rate that its width needs. The filter has a straight phase; a sample stands at
 *  the middle of what it was made of. */
export class ChannelFilter {
  readonly sampleRateHz: number;
  /** Input samples to an output sample. */
  readonly each: number;
  private readonly taps: Float64Array;
  /** Mixed input that is still needed, I and Q in turn. */
  private held = new Float64Array(0);
  private count = 0;
  private heldFirst = 0;
  private next = -1;

  /** @param offsetHz of the channel’s centre from the input’s @param widthHz that passes unharmed */
  constructor(
    private readonly inputRateHz: number,
    private readonly offsetHz: number,
    widthHz: number,
  ) {
    this.each = Math.max(1, Math.floor((inputRateHz * PASSES) / widthHz));
    this.sampleRateHz = inputRateHz / this.each;
    const length = this.each === 1 ? 1 : 2 * HALF * this.each + 1;
    const window = kaiserWindow(7, length);
    const middle = (length - 1) / 2;
    // Half way between what has to pass and what would fold back onto it.
    const cut = 0.5 / this.each;
    this.taps = Float64Array.from({ length }, (_, k) => {
      const x = k - middle;
      return length === 1
        ? 1
        : window[k] * (x === 0 ? 2 * cut : Math.sin(2 * Math.PI * cut * x) / (Math.PI * x));
    });
    const sum = this.taps.reduce((a, b) => a + b, 0);
    for (let k = 0; k < length; k++) this.taps[k] /= sum;
  }

  /** @param iq I and Q in turn @param first index of the first sample; a jump begins the filter anew
   *  @returns output samples that are whole, and the index of the first one: it stands at input sample index · each */
  push(iq: Float32Array, first: number): { first: number; iq: Float32Array } {
    const { each, taps } = this;
    const half = (taps.length - 1) / 2;
    if (first !== this.next) {
      this.count = 0;
      this.heldFirst = first;
    }
    const n = iq.length / 2;
    this.next = first + n;
    this.take(iq, first);
    const end = this.heldFirst + this.count;
    const from = Math.ceil((this.heldFirst + half) / each);
    const to = Math.floor((end - 1 - half) / each);
    const out = new Float32Array(2 * Math.max(0, to - from + 1));
    const { held } = this;
    for (let k = from, o = 0; k <= to; k++, o += 2) {
      let at = 2 * (k * each - half - this.heldFirst);
      let [re, im] = [0, 0];
      for (let t = 0; t < taps.length; t++, at += 2) {
        re += taps[t] * held[at];
        im += taps[t] * held[at + 1];
      }
      out[o] = re;
      out[o + 1] = im;
    }
    // What the next output sample begins with stays.
    const keep = Math.max(this.heldFirst, Math.max(from, to + 1) * each - half);
    this.held.copyWithin(0, 2 * (keep - this.heldFirst), 2 * this.count);
    this.count -= keep - this.heldFirst;
    this.heldFirst = keep;
    return { first: from, iq: out };
  }

  /** Mixes some samples to the channel’s centre and puts them behind those that are held. */
  private take(iq: Float32Array, first: number): void {
    const n = iq.length / 2;
    const { inputRateHz, offsetHz } = this;
    if (this.held.length < 2 * (this.count + n)) {
      const next = new Float64Array(2 * (this.count + n) + 1024);
      next.set(this.held.subarray(0, 2 * this.count));
      this.held = next;
    }
    const turn = (-2 * Math.PI * offsetHz) / inputRateHz;
    // By whole seconds and the rest, so that a late sample is mixed as exactly as an early one.
    const seconds = Math.floor(first / inputRateHz);
    const phase =
      -2 *
      Math.PI *
      (((offsetHz % 1) * seconds + (offsetHz * (first - seconds * inputRateHz)) / inputRateHz) % 1);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    let [re, im] = [Math.cos(phase), Math.sin(phase)];
    const { held } = this;
    for (let i = 0, o = 2 * this.count; i < n; i++, o += 2) {
      const [a, b] = [iq[2 * i], iq[2 * i + 1]];
      held[o] = a * re - b * im;
      held[o + 1] = a * im + b * re;
      const turned = re * c - im * s;
      im = re * s + im * c;
      re = turned;
    }
    this.count += n;
  }
}
