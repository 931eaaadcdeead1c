/** Standard noise temperature, K (IRE 1960; IEEE Std 181 names it T0). */
export const T0 = 290;

/** Excess noise ratio of a source at calibrated frequencies. */
export interface ExcessPoint {
  hz: number;
  /** dB over kT0. */
  enr: number;
  /** ± at 95 %, dB. */
  expanded: number;
}

/** Excess noise ratio and its ± between calibrated frequencies: straight in dB over frequency, held beyond the ends of the table.
 *  @param points in ascending order of frequency, at least one @returns `covered`: whether the frequency lies within the table */
export function excessAt(
  points: readonly ExcessPoint[],
  hz: number,
): { enr: number; expanded: number; covered: boolean } {
  const first = points[0];
  const last = points[points.length - 1];
  if (hz <= first.hz) return { enr: first.enr, expanded: first.expanded, covered: hz >= first.hz };
  if (hz >= last.hz) return { enr: last.enr, expanded: last.expanded, covered: hz <= last.hz };
  const k = points.findIndex((p) => p.hz > hz);
  const [a, b] = [points[k - 1], points[k]];
  const share = (hz - a.hz) / (b.hz - a.hz);
  return {
    enr: a.enr + share * (b.enr - a.enr),
    expanded: a.expanded + share * (b.expanded - a.expanded),
    covered: true,
  };
}

/** Temperature of a source that is on, K: its excess is stated against 290 K, however warm it is. @param enr dB */
export const hotTemperature = (enr: number): number => T0 * (1 + 10 ** (enr / 10));

/** Value of a table between its frequencies, straight over frequency, held beyond its ends; 0 for an empty one. */
export function tabledAt(points: readonly { hz: number; db: number }[], hz: number): number {
  if (points.length === 0) return 0;
  const k = points.findIndex((p) => p.hz >= hz);
  if (k === -1) return points[points.length - 1].db;
  if (k === 0) return points[0].db;
  const [a, b] = [points[k - 1], points[k]];
  return a.db + ((hz - a.hz) / (b.hz - a.hz)) * (b.db - a.db);
}
