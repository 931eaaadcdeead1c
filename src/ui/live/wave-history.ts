import type { Wave } from '$contract/live';

/** Samples kept of one channel for fast views: about five seconds of the fastest. */
const CAPACITY = 262_144;

/** Every sample of one channel, in a ring, with the time of each. Not reactive: drawn, never rendered. */
export class WaveHistory {
  private readonly data = new Float32Array(CAPACITY);
  /** Samples ever pushed. */
  count = 0;
  rateHz = 0;
  private firstMs = 0;

  push({ rateHz, firstMs, values }: Omit<Wave, 'channelId'>): void {
    // A jump in time or another rate: what came before is not joined to it.
    const expected = this.firstMs + (this.count / this.rateHz) * 1000;
    if (this.count === 0 || rateHz !== this.rateHz || Math.abs(firstMs - expected) > 1000 / rateHz + 2) {
      this.count = 0;
      this.rateHz = rateHz;
      this.firstMs = firstMs;
    }
    const { data } = this;
    for (let i = 0; i < values.length; i++) data[(this.count + i) % CAPACITY] = values[i];
    this.count += values.length;
  }

  get oldest(): number {
    return Math.max(0, this.count - CAPACITY);
  }
  at = (index: number) => (index >= this.oldest && index < this.count ? this.data[index % CAPACITY] : NaN);
  timeMs = (index: number) => this.firstMs + (index / this.rateHz) * 1000;

  /** Samples [from, from + count), NaN where there are none. */
  copy(from: number, count: number): Float32Array {
    return Float32Array.from({ length: count }, (_, i) => this.at(from + i));
  }

  /** The newest sample at or after `from` at which the signal rises through a level, or -1. */
  lastRise(level: number, from: number, before = this.count): number {
    for (let i = before - 1; i > Math.max(from, this.oldest); i--)
      if (this.at(i) >= level && this.at(i - 1) < level) return i;
    return -1;
  }
}
