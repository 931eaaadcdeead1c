/** Samples (or buckets) that make one bucket of the next level. */
export const ENVELOPE_FACTOR = 16;

/** Thins a signal to its extremes: bucket b of B holds samples floor(b·n/B) to floor((b+1)·n/B) - 1. NaN is skipped; a
 *  bucket without a value is NaN.
 *  @param min shape [n], lowest of each sample or finer bucket @param max shape [n], the highest (the same array for samples)
 *  @returns min and max, shape [buckets] each */
export function minMaxBuckets(
  min: ArrayLike<number>,
  max: ArrayLike<number>,
  buckets: number,
): { min: Float32Array; max: Float32Array } {
  const n = min.length;
  const low = new Float32Array(buckets).fill(NaN);
  const high = new Float32Array(buckets).fill(NaN);
  for (let b = 0; b < buckets; b++) {
    const end = Math.floor(((b + 1) * n) / buckets);
    let lo = Infinity;
    let hi = -Infinity;
    for (let i = Math.floor((b * n) / buckets); i < end; i++) {
      if (min[i] < lo) lo = min[i];
      if (max[i] > hi) hi = max[i];
    }
    if (lo <= hi) {
      low[b] = lo;
      high[b] = hi;
    }
  }
  return { min: low, max: high };
}
