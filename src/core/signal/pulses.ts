import { CrossingFinder } from './crossings';

/** A pulse by its waveform parameters (IEC 60469, IEEE Std 181); instants in samples from the first that was fed, NaN where it does not come. */
export interface Pulse {
  /** Where it passes half its amplitude, rising and falling. */
  riseAt: number;
  fallAt: number;
  /** From the lower edge to the upper, and back. */
  rise: number;
  fall: number;
  width: number;
  peak: number;
  /** Above the top level, share of the amplitude. */
  overshoot: number;
  /** From the rising half until it stays within a band about the top for the rest of the pulse; NaN where it does not. */
  settling: number;
}

/** Pulses between two state levels. They are taken apart in memory: a record of some million samples at most. @param samples NaN is in no pulse
 *  @param base level of 0 % @param top level of 100 %, above or below the base @param hysteresis share of the amplitude @param band share of it for settling
 *  @param edges shares between which rise and fall are timed */
export function pulsesOf(
  samples: ArrayLike<number>,
  levels: { base: number; top: number },
  { hysteresis = 0.1, band = 0.02, edges = [0.1, 0.9] as readonly [number, number] } = {},
): Pulse[] {
  const amplitude = levels.top - levels.base;
  // Pulses that go down are looked at upside down.
  const at = (i: number) => (samples[i] - levels.base) / amplitude;
  const shares = Float64Array.from({ length: samples.length }, (_, i) => at(i));
  const passes = (direction: 'rising' | 'falling') => {
    const found: number[] = [];
    new CrossingFinder(direction === 'rising' ? 0.5 : -0.5, hysteresis, 'rising').push(
      direction === 'rising' ? shares : shares.map((v) => -v),
      (place) => void found.push(place),
    );
    return found;
  };
  const [rises, falls] = [passes('rising'), passes('falling')];
  const pulses: Pulse[] = [];
  rises.forEach((riseAt, k) => {
    const next = rises[k + 1] ?? Infinity;
    const fallAt = falls.find((f) => f > riseAt && f < next);
    if (fallAt === undefined) return;
    const previous = falls.filter((f) => f < riseAt).at(-1) ?? 0;
    const last10 = lastPass(shares, edges[0], riseAt, previous, 1);
    const first90 = firstPass(shares, edges[1], riseAt, fallAt, 1);
    const last90 = lastPass(shares, edges[1], fallAt, riseAt, -1);
    const first10 = firstPass(shares, edges[0], fallAt, Math.min(next, shares.length - 1), -1);
    let peak = -Infinity;
    for (let i = Math.ceil(riseAt); i <= Math.floor(fallAt); i++) if (shares[i] > peak) peak = shares[i];
    // Back from where it begins to fall, as far as it stays within the band.
    let held = Math.floor(fallAt);
    while (held > riseAt && shares[held] < 1 - band) held--;
    let settled = held;
    while (settled > riseAt && Math.abs(shares[settled - 1] - 1) <= band) settled--;
    pulses.push({
      riseAt,
      fallAt,
      rise: first90 - last10,
      fall: first10 - last90,
      width: fallAt - riseAt,
      peak: levels.base + peak * amplitude,
      overshoot: Math.max(0, peak - 1),
      settling: held > riseAt && Math.abs(shares[held] - 1) <= band ? settled - riseAt : NaN,
    });
  });
  return pulses;
}

/** The last pass of a level before a place, going up (1) or down (−1). */
function lastPass(v: Float64Array, level: number, before: number, after: number, way: 1 | -1): number {
  for (let i = Math.ceil(before); i > Math.max(0, Math.floor(after)); i--) {
    const [a, b] = [(v[i - 1] - level) * way, (v[i] - level) * way];
    if (a < 0 && b >= 0) return i - 1 + a / (a - b);
  }
  return NaN;
}
function firstPass(v: Float64Array, level: number, after: number, before: number, way: 1 | -1): number {
  for (let i = Math.max(1, Math.floor(after) + 1); i <= Math.min(v.length - 1, Math.ceil(before)); i++) {
    const [a, b] = [(v[i - 1] - level) * way, (v[i] - level) * way];
    if (a < 0 && b >= 0) return i - 1 + a / (a - b);
  }
  return NaN;
}

/** State levels of a signal with two: the fullest bins of a histogram’s lower and upper half (IEC 60469, mode of histogram). NaN where there are none.
 *  @param samples shape [n] */
export function stateLevels(samples: ArrayLike<number>, bins = 200): { base: number; top: number } {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < samples.length; i++) {
    if (samples[i] < low) low = samples[i];
    if (samples[i] > high) high = samples[i];
  }
  if (!(high > low)) return { base: NaN, top: NaN };
  const counts = new Float64Array(bins);
  const sums = new Float64Array(bins);
  for (let i = 0; i < samples.length; i++) {
    if (Number.isNaN(samples[i])) continue;
    const k = Math.min(bins - 1, Math.floor(((samples[i] - low) / (high - low)) * bins));
    counts[k]++;
    sums[k] += samples[i];
  }
  const mode = (from: number, to: number) => {
    let best = from;
    for (let k = from; k < to; k++) if (counts[k] > counts[best]) best = k;
    return sums[best] / counts[best];
  };
  return { base: mode(0, bins / 2), top: mode(bins / 2, bins) };
}
