import { columnOf, type RowsPiece } from './state';

/** Rows of a table on the even times of a take. */
export interface OnGrid {
  runs: { first: number; columns: Float32Array[] }[];
  gaps: { first: number; count: number; reason: string }[];
  /** From this row on they belong into another take: the clock had been turned back, or had leapt far ahead. null where all found their place. */
  turnedAt: number | null;
  /** Index after the last one that is placed. */
  end: number;
}
const TORN = 'The power failed while a row was written.';
/** So many rows that are missing are no gap: the clock had been wrong. */
const LEAP = 2_000_000;
const NONE = 'The station wrote no rows.';

/** Lays rows on even times. What is missing in between is a gap with its reason; a torn row is none. @param startMs of index 0 @param stepMs from one index to the next
 *  @param from index after the last one that is there already @param lost rows before these were overwritten before they were fetched */
export function onGrid(rows: Pick<RowsPiece, 'width' | 'times' | 'torn' | 'values'>, startMs: number, stepMs: number, from: number, lost = false): OnGrid {
  const { times, torn, width } = rows;
  const out: OnGrid = { runs: [], gaps: [], turnedAt: null, end: from };
  let begun = 0;
  let why = lost ? 'Overwritten before they were fetched.' : NONE;
  const close = (until: number) => {
    if (until > begun) out.runs.push({ first: out.end - (until - begun), columns: Array.from({ length: width }, (_, k) => columnOf(rows, k, begun, until)) });
    begun = until;
  };
  for (let i = 0; i < times.length; i++) {
    // A time that is none tells as little as a row that was torn.
    if (torn[i] || !Number.isFinite(times[i])) {
      close(i);
      begun = i + 1;
      why = TORN;
      continue;
    }
    const index = Math.round((times[i] - startMs) / stepMs);
    if (index < out.end || (index - out.end > LEAP && out.end > 0)) {
      close(i);
      out.turnedAt = i;
      return out;
    }
    if (index > out.end) {
      close(i);
      out.gaps.push({ first: out.end, count: index - out.end, reason: why });
    }
    out.end = index + 1;
    why = NONE;
  }
  close(times.length);
  return out;
} // prettier-ignore
