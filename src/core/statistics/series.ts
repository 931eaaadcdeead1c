import { studentFactor } from './student-t';
import { Moments } from './moments';

export interface SeriesStatistics {
  n: number;
  mean: number;
  /** With n − 1. */
  standardDeviation: number;
  /** Coefficient of variation, %; NaN for a mean of zero. */
  variation: number;
  lowest: number;
  highest: number;
  median: number;
  /** Half width of the 95 % interval of the mean by Student's t; NaN below two values. */
  halfWidth95: number;
}

/** What a series of results says as a whole. @param values shape [n]; what is no number is left out */
export function seriesStatistics(values: readonly number[]): SeriesStatistics {
  const own = values.filter(Number.isFinite).sort((a, b) => a - b);
  const n = own.length;
  const m = new Moments();
  m.push(own);
  const s = m.standardDeviation;
  return {
    n,
    mean: n ? m.mean : NaN,
    standardDeviation: s,
    variation: m.mean !== 0 ? (100 * s) / Math.abs(m.mean) : NaN,
    lowest: own[0] ?? NaN,
    highest: own[n - 1] ?? NaN,
    median: n ? (own[(n - 1) >> 1] + own[n >> 1]) / 2 : NaN,
    halfWidth95: n > 1 ? (studentFactor(0.95, n - 1) * s) / Math.sqrt(n) : NaN,
  };
}

export interface GrubbsHint {
  /** Position of the value that lies farthest from the mean. */
  index: number;
  /** |x − mean| / s of it. */
  distance: number;
  critical5: number;
  critical1: number;
}

/** Grubbs' two-sided test for one outlier (Technometrics 11, 1969): which value lies farthest out, and how far that may come by chance in
 *  1 of 20 and in 1 of 100 series. A hint where to look, no judge. @returns null below three values or without scatter */
export function grubbsHint(values: readonly number[]): GrubbsHint | null {
  const m = new Moments();
  m.push(values.filter(Number.isFinite));
  const s = m.standardDeviation;
  if (m.count < 3 || !(s > 0)) return null;
  let index = -1;
  let distance = -1;
  values.forEach((value, k) => {
    const own = Math.abs(value - m.mean) / s;
    if (own > distance) [index, distance] = [k, own];
  });
  return {
    index,
    distance,
    critical5: grubbsCritical(m.count, 0.05),
    critical1: grubbsCritical(m.count, 0.01),
  };
}

/** Critical value of Grubbs' two-sided test: (n − 1)/√n · √(t² / (n − 2 + t²)) with t of Student at the share alpha/n of both sides.
 *  @param n 3 and up @param alpha share of series without an outlier that pass it */
export function grubbsCritical(n: number, alpha: number): number {
  const t2 = studentFactor(1 - alpha / n, n - 2) ** 2;
  return ((n - 1) / Math.sqrt(n)) * Math.sqrt(t2 / (n - 2 + t2));
}
