/** When an alarm begins: at the first reading beyond, at one after so many in a row, or when so many have been beyond in all. */
export type AlarmAfter = 'at once' | 'in a row' | 'in total';
export interface Limit {
  at: number;
  after: AlarmAfter;
  /** Of readings; 1 means at once. */
  count: number;
}

/** Whether a reading is beyond a limit: strictly above a high one, strictly below a low one. */
const beyond = (value: number, at: number, side: 'high' | 'low') =>
  side === 'high' ? value > at : value < at;

/** Index of the reading with which an alarm begins; null where none does. A missing reading is beyond nothing, and ends no row. @param from first reading that counts */
export function alarmAt(readings: ArrayLike<number>, { at, after, count }: Limit, side: 'high' | 'low', from = 0): number | null {
  const wanted = after === 'at once' ? 1 : count;
  let n = 0;
  for (let i = from; i < readings.length; i++) {
    if (Number.isNaN(readings[i])) continue;
    if (beyond(readings[i], at, side)) n++;
    else if (after === 'in a row') n = 0;
    if (n >= wanted) return i;
  }
  return null;
} // prettier-ignore

/** What readings at a fixed interval say; each stands for one interval. */
export interface RecorderFindings {
  count: number;
  missing: number;
  mean: number;
  lowest: number;
  highest: number;
  /** Beyond the limits: how long, min, and how far, as the sum of the excess times the interval. NaN without a limit. */
  minutesAbove: number;
  minutesBelow: number;
  degreeMinutesAbove: number;
  degreeMinutesBelow: number;
  /** Of temperatures, °C. */
  meanKinetic: number;
}

/** Activation energy over the gas constant, K (USP 〈1079.2〉: 83.144 kJ/mol). */
const DH_OVER_R = 83.144 / 0.008314462618;
const KELVIN = 273.15;

/** Mean kinetic temperature: the one at which as much would have happened (USP 〈1079.2〉). Missing readings are left out. @param readings °C @returns °C */
export function meanKineticTemperature(readings: ArrayLike<number>): number {
  let [sum, n] = [0, 0];
  for (let i = 0; i < readings.length; i++) {
    if (!Number.isFinite(readings[i])) continue;
    sum += Math.exp(-DH_OVER_R / (readings[i] + KELVIN));
    n++;
  }
  return n ? DH_OVER_R / -Math.log(sum / n) - KELVIN : NaN;
}

/** Findings of readings. @param intervalS from one to the next, s @param high and low of the limits; null where there is none @param from first reading for which limits count */
export function findings(
  readings: ArrayLike<number>,
  intervalS: number,
  { high, low, from = 0 }: { high: number | null; low: number | null; from?: number },
): RecorderFindings {
  let [count, sum, lowest, highest] = [0, 0, Infinity, -Infinity];
  let [above, below, far, deep] = [0, 0, 0, 0];
  for (let i = 0; i < readings.length; i++) {
    const v = readings[i];
    if (Number.isNaN(v)) continue;
    count++;
    sum += v;
    if (v < lowest) lowest = v;
    if (v > highest) highest = v;
    if (i < from) continue;
    if (high !== null && v > high) {
      above++;
      far += v - high;
    }
    if (low !== null && v < low) {
      below++;
      deep += low - v;
    }
  }
  const minutes = intervalS / 60;
  const known = (of: number, limit: number | null) => (limit === null ? NaN : of * minutes);
  return {
    count,
    missing: readings.length - count,
    mean: count ? sum / count : NaN,
    lowest: count ? lowest : NaN,
    highest: count ? highest : NaN,
    minutesAbove: known(above, high),
    minutesBelow: known(below, low),
    degreeMinutesAbove: known(far, high),
    degreeMinutesBelow: known(deep, low),
    meanKinetic: meanKineticTemperature(readings),
  };
}
