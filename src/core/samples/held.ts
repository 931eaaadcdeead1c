import { rateHz, startS, type Sampled } from './sampled';

/** Reads one signal at the instants of another’s samples: the last sample at or before each, as held until the next one. NaN before its first sample and
 *  one interval after its last. @param of read; real samples @param like at whose instants */
export function heldBeside(of: Sampled, like: Sampled): (first: number, count: number) => Float32Array {
  const same = of.rate.num * like.rate.den === like.rate.num * of.rate.den && of.startNs === like.startNs;
  const step = rateHz(of) / rateHz(like);
  const from = (startS(like) - startS(of)) * rateHz(of);
  return (first, count) => {
    const out = new Float32Array(count).fill(NaN);
    if (same) {
      const n = Math.min(count, of.length - first);
      if (n > 0) out.set(of.read(first, n));
      return out;
    }
    const index = (i: number) => Math.floor(from + (first + i) * step + 1e-6);
    const low = Math.max(0, index(0));
    const high = Math.min(of.length, index(count - 1) + 1);
    if (high <= low) return out;
    const held = of.read(low, high - low);
    for (let i = 0; i < count; i++) {
      const at = index(i);
      if (at >= low && at < high) out[i] = held[at - low];
    }
    return out;
  };
}
