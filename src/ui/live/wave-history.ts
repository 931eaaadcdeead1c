import { rateHz, sampleS, type Sampled } from '$core/samples/sampled';
import type { Rate } from '$core/time/rate';
import type { Wave } from '$contract/live';

/** Numbers kept of one channel for fast views: about five seconds of the fastest. */
const CAPACITY = 262_144;

/** Every sample of one channel as it arrives, in a ring, with the time of each: read like samples from anywhere, as far back as it reaches. Not
 *  reactive: drawn, never rendered. */
export class WaveHistory implements Pick<Sampled, 'rate' | 'width' | 'length' | 'read'> {
  private readonly data = new Float32Array(CAPACITY);
  rate: Rate = { num: 0, den: 1 };
  width: 1 | 2 = 1;
  /** Samples ever pushed. */
  length = 0;
  private firstMs = 0;

  push({ rate, width, firstMs, values }: Omit<Wave, 'channelId'>): void {
    // A jump in time or another rate: what came before is not joined to it.
    const same = rate.num * this.rate.den === this.rate.num * rate.den && width === this.width;
    const apart = Math.abs(firstMs - this.timeMs(this.length));
    if (this.length === 0 || !same || apart > 1000 / rateHz({ rate }) + 2) {
      this.length = 0;
      this.rate = rate;
      this.width = width;
      this.firstMs = firstMs;
    }
    const { data } = this;
    const from = this.length * width;
    for (let i = 0; i < values.length; i++) data[(from + i) % CAPACITY] = values[i];
    this.length += values.length / width;
  }

  /** The first sample that is still there. */
  get oldest(): number {
    return Math.max(0, this.length - CAPACITY / this.width);
  }
  get rateHz(): number {
    return rateHz(this);
  }
  timeMs = (index: number) => this.firstMs + sampleS({ rate: this.rate, startNs: 0 }, index) * 1000;

  /** A number of a sample, NaN where there is none. @param part 0, or 1 for the part in quadrature */
  at = (index: number, part: 0 | 1 = 0) =>
    index >= this.oldest && index < this.length ? this.data[(index * this.width + part) % CAPACITY] : NaN;

  /** Samples [first, first + count), NaN where there are none. */
  read(first: number, count: number): Float32Array {
    const { width } = this;
    return Float32Array.from({ length: count * width }, (_, i) =>
      this.at(first + Math.floor(i / width), (i % width) as 0 | 1),
    );
  }

  /** The newest sample at or after `from` at which the signal rises through a level, or -1. */
  lastRise(level: number, from: number, before = this.length): number {
    for (let i = before - 1; i > Math.max(from, this.oldest); i--)
      if (this.at(i) >= level && this.at(i - 1) < level) return i;
    return -1;
  }
}
