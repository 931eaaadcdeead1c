import { peaksOf } from '../radio/peaks';
import { lowestLimit, type LimitLine } from './limits';

/** Readings over a range, in the unit of its limits. */
export interface CorrectedLine {
  startHz: number;
  stepHz: number;
  levels: ArrayLike<number>;
  /** 6 dB down. */
  bandwidth6Hz: number;
}

/** A place at which a line passes the limit, or comes within the margin of it. */
export interface Found {
  hz: number;
  level: number;
  /** The lowest limit there, and by how much it is passed (negative: room left). */
  limit: number;
  over: number;
}

/** Least rise of a peak over what lies between it and the next one, dB: noise is no suspect. */
const RISE = 6;
/** Level by which what stands in the ambient may be lower there and still be the same, dB. */
const SAME_DB = 6;

/** Peaks that pass the lowest limit or come within a margin of it, farthest over first; of peaks nearer than the bandwidth only the highest.
 *  @param margin dB, ≥ 0 */
export function suspectsOf(
  lines: readonly CorrectedLine[],
  limits: readonly LimitLine[],
  margin: number,
): Found[] {
  const found: Found[] = [];
  for (const { startHz, stepHz, levels, bandwidth6Hz } of lines) {
    const near: Found[] = [];
    for (const l of peaksOf(levels, { least: -Infinity, rise: RISE })) {
      const hz = startHz + l * stepHz;
      const limit = lowestLimit(limits, hz);
      if (!limit) continue;
      const over = levels[l] - limit.level;
      if (over < -margin || near.some((f) => Math.abs(f.hz - hz) < bandwidth6Hz)) continue;
      near.push({ hz, level: levels[l], limit: limit.level, over });
    }
    // Ranges may overlap: what was found in both is one.
    found.push(...near.filter((f) => !found.some((g) => Math.abs(g.hz - f.hz) < bandwidth6Hz)));
  }
  return found.sort((a, b) => b.over - a.over);
}

/** The highest level of lines within a bandwidth of a frequency; −∞ where nothing was read. */
export function levelNear(lines: readonly CorrectedLine[], hz: number): number {
  let most = -Infinity;
  for (const { startHz, stepHz, levels, bandwidth6Hz } of lines) {
    const from = Math.max(0, Math.ceil((hz - bandwidth6Hz - startHz) / stepHz));
    const to = Math.min(levels.length - 1, Math.floor((hz + bandwidth6Hz - startHz) / stepHz));
    for (let l = from; l <= to; l++) if (levels[l] > most) most = levels[l];
  }
  return most;
}

/** Whether a suspect stands in the ambient, too: what was read there without the device is not more than 6 dB lower. */
export const isAmbient = (ambient: readonly CorrectedLine[], found: { hz: number; level: number }): boolean =>
  levelNear(ambient, found.hz) >= found.level - SAME_DB;
