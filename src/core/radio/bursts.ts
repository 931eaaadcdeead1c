import { pulsesOf, stateLevels } from '../signal/pulses';
import { Moments } from '../statistics/moments';
import { MW_PER_V2, dbm } from './levels';
import { overTime } from './over-time';

/** What is measured of each pulse; times in s, levels in dBm, ratios in dB, frequencies in Hz from the centre. NaN where it does not come. */
export interface Burst {
  /** Where it passes half its height, rising, s from the first sample. */
  atS: number;
  widthS: number;
  /** To the next one. */
  periodS: number;
  duty: number;
  riseS: number;
  fallS: number;
  top: number;
  base: number;
  /** Highest over the top, and the top’s fall from its begin to its end. */
  over: number;
  droop: number;
  onToOff: number;
  /** Mean frequency inside, and by how much it moves from its begin to its end. */
  frequencyHz: number;
  sweepHz: number;
  /** Phase in its middle, °, 0 to 360. */
  phase: number;
}

export const BURST_MEASURES = [
  ['widthS', 'width'],
  ['periodS', 'period'],
  ['duty', 'duty'],
  ['riseS', 'rise'],
  ['fallS', 'fall'],
  ['top', 'top'],
  ['base', 'base'],
  ['over', 'over'],
  ['droop', 'droop'],
  ['onToOff', 'on to off'],
  ['frequencyHz', 'frequency inside'],
  ['sweepHz', 'sweep inside'],
] as const satisfies readonly (readonly [keyof Burst, string])[];

/** Pulses of a carrier, by the magnitude of complex samples: state levels by the modes of its histogram, instants at half of the height, edges between two shares of it
 *  (IEC 60469). Droop and the frequency inside are straight lines through the part where the magnitude stands above the upper edge.
 *  @param iq V rms over 50 Ω, I and Q in turn @param edges shares of the height @returns no pulse where the two levels cannot be told apart */
export function burstsOf(
  iq: Float32Array,
  sampleRateHz: number,
  edges: readonly [number, number] = [0.1, 0.9],
): Burst[] {
  const magnitude = overTime(iq, 'magnitude', sampleRateHz);
  const levels = stateLevels(magnitude);
  if (!(levels.top > levels.base * 1.5)) return [];
  const frequency = overTime(iq, 'frequency', sampleRateHz, levels.base + 0.5 * (levels.top - levels.base));
  const upper = levels.base + edges[1] * (levels.top - levels.base);
  const pulses = pulsesOf(magnitude, levels, { edges });
  return pulses.map((p, k): Burst => {
    let [from, to] = [Math.ceil(p.riseAt), Math.floor(p.fallAt)];
    while (from < to && magnitude[from] < upper) from++;
    while (to > from && magnitude[to] < upper) to--;
    // What rings at the edges is no droop.
    const margin = Math.floor((to - from) * 0.1);
    const inside = { from: from + margin, to: to - margin };
    /** Over the whole pulse, as it goes in the middle of it. */
    const whole = p.width / Math.max(1, inside.to - inside.from);
    const power = line(magnitude, inside, (v) => dbm(v * v * MW_PER_V2));
    const own = line(frequency, { from: inside.from + 1, to: inside.to }, (v) => v);
    const next = pulses[k + 1]?.riseAt ?? NaN;
    const off = offPower(magnitude, p.fallAt, next, pulses[k - 1]?.fallAt ?? 0, p.riseAt);
    const middle = Math.round((inside.from + inside.to) / 2);
    const angle = (Math.atan2(iq[2 * middle + 1], iq[2 * middle]) * 180) / Math.PI;
    const periodS = (next - p.riseAt) / sampleRateHz;
    return {
      atS: p.riseAt / sampleRateHz,
      widthS: p.width / sampleRateHz,
      periodS,
      duty: p.width / sampleRateHz / periodS,
      riseS: p.rise / sampleRateHz,
      fallS: p.fall / sampleRateHz,
      top: power.mean,
      base: off,
      over: dbm(p.peak * p.peak * MW_PER_V2) - power.mean,
      droop: -power.change * whole,
      onToOff: power.mean - off,
      frequencyHz: own.mean,
      sweepHz: own.change * whole,
      phase: (angle + 360) % 360,
    };
  });
}

/** Mean and change from end to end of a straight line through some samples. */
function line(values: Float32Array, { from, to }: { from: number; to: number }, of: (v: number) => number) {
  let [n, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0];
  for (let i = from; i <= to; i++) {
    const y = of(values[i]);
    if (!Number.isFinite(y)) continue;
    const x = i - from;
    n++;
    sx += x;
    sy += y;
    sxx += x * x;
    sxy += x * y;
  }
  if (n === 0) return { mean: NaN, change: NaN };
  const slope = (n * sxy - sx * sy) / (n * sxx - sx * sx);
  return { mean: sy / n, change: n > 1 ? slope * (to - from) : NaN };
}

/** Mean power between pulses, a quarter of the pause away from either. Before the first or after the last one the other side is taken. @returns dBm */
function offPower(
  magnitude: Float32Array,
  fall: number,
  next: number,
  formerFall: number,
  rise: number,
): number {
  const [a, b] = Number.isNaN(next) ? [formerFall, rise] : [fall, next];
  let [sum, n] = [0, 0];
  for (let i = Math.ceil(a + (b - a) / 4); i < b - (b - a) / 4; i++) {
    sum += magnitude[i] * magnitude[i];
    n++;
  }
  return dbm((sum / n) * MW_PER_V2);
}

/** Statistics of one measure over all pulses that have it. */
export function statisticsOf(bursts: readonly Burst[], measure: keyof Burst) {
  const moments = new Moments();
  moments.push(bursts.map((b) => b[measure]).filter((v) => Number.isFinite(v)));
  return { mean: moments.mean, s: moments.standardDeviation, least: moments.min, most: moments.max };
}
