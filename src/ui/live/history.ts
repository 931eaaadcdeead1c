import { higher, lower } from '$core/signal/extremes';

/** The buckets of one strip, kept in a ring: times and extremes. Not reactive: drawn, never rendered. */
export class StripHistory {
  static readonly CAPACITY = 12_288;
  readonly min = new Float32Array(StripHistory.CAPACITY);
  readonly max = new Float32Array(StripHistory.CAPACITY);
  /** Buckets ever pushed. */
  count = 0;
  /** End of the newest bucket, ms. */
  endMs = 0;

  /** @param bucketMs width of a bucket */
  constructor(readonly bucketMs = 50) {}

  push(min: number, max: number): void {
    const slot = this.count++ % StripHistory.CAPACITY;
    this.min[slot] = min;
    this.max[slot] = max;
  }

  /** Extremes of the last `spanMs`, thinned to about `wanted` points; thinning stands still against the buckets, so that a moving
   *  strip does not shimmer. @returns times of the points in ms and their extremes */
  recent(spanMs: number, wanted: number): { ms: Float64Array; min: Float32Array; max: Float32Array } {
    const { bucketMs } = this;
    const held = Math.min(this.count, StripHistory.CAPACITY, Math.ceil(spanMs / bucketMs));
    const per = Math.max(1, Math.ceil(held / wanted));
    const first = Math.floor((this.count - held) / per);
    const last = Math.ceil(this.count / per);
    const n = Math.max(0, last - first);
    const ms = new Float64Array(n);
    const min = new Float32Array(n).fill(NaN);
    const max = new Float32Array(n).fill(NaN);
    for (let g = 0; g < n; g++) {
      const from = Math.max((first + g) * per, this.count - Math.min(this.count, StripHistory.CAPACITY));
      const to = Math.min((first + g + 1) * per, this.count);
      for (let b = from; b < to; b++) {
        const slot = b % StripHistory.CAPACITY;
        min[g] = lower(min[g], this.min[slot]);
        max[g] = higher(max[g], this.max[slot]);
      }
      ms[g] = this.endMs - (this.count - (from + to) / 2) * bucketMs;
    }
    return { ms, min, max };
  }
}
