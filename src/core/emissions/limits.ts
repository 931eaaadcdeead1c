/** What a limit is for: the reading of this detector must stay below it. */
export const LIMIT_DETECTORS = ['peak', 'quasi-peak', 'average'] as const;
export type LimitDetector = (typeof LIMIT_DETECTORS)[number];

/** A limit over frequency: straight between its points over the logarithm of frequency. Two points at one frequency are a step. */
export interface LimitLine {
  detector: LimitDetector;
  /** In ascending order; levels in the unit that is measured in. */
  points: { hz: number; level: number }[];
}

/** Level of a limit; NaN beyond its points. At a step the lower side counts (as CISPR publications have it at transitions). */
export function limitLevel({ points }: LimitLine, hz: number): number {
  let found = NaN;
  for (let k = 1; k < points.length; k++) {
    const [a, b] = [points[k - 1], points[k]];
    if (hz < a.hz || hz > b.hz) continue;
    const level =
      a.hz === b.hz
        ? Math.min(a.level, b.level)
        : a.level + (Math.log(hz / a.hz) / Math.log(b.hz / a.hz)) * (b.level - a.level);
    if (!(found <= level)) found = level;
  }
  return found;
}

/** The lowest of several limits at a frequency, and whose it is; null where none is. */
export function lowestLimit(
  lines: readonly LimitLine[],
  hz: number,
): { level: number; detector: LimitDetector } | null {
  let found: { level: number; detector: LimitDetector } | null = null;
  for (const line of lines) {
    const level = limitLevel(line, hz);
    if (level === level && (!found || level < found.level)) found = { level, detector: line.detector };
  }
  return found;
}

/** What was read of a frequency; null where it is not defined or was not measured. */
export interface ByDetector {
  peak: number | null;
  quasiPeak: number | null;
  average: number | null;
}

/** Room to the nearest limit, dB: each reading under the limit that is for it; negative where one is passed. A limit whose detector was not read is compared with the
 *  peak, which is never lower. @returns null where there is no limit */
export function roomTo(
  lines: readonly LimitLine[],
  hz: number,
  read: ByDetector,
): { room: number; level: number; detector: LimitDetector } | null {
  let found: { room: number; level: number; detector: LimitDetector } | null = null;
  for (const line of lines) {
    const level = limitLevel(line, hz);
    const own =
      { peak: read.peak, 'quasi-peak': read.quasiPeak, average: read.average }[line.detector] ?? read.peak;
    if (!(level === level) || own === null) continue;
    const room = level - own;
    if (!found || room < found.room) found = { room, level, detector: line.detector };
  }
  return found;
}
