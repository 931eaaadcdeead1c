import { rmSync } from 'node:fs';
import { IDENTITY } from '$core/conversion/conversion';
import { FarrierError, asFarrierError, type ErrorText } from '$core/errors';
import type { OnGrid } from '$core/field/station/grid';
import type { TakeHead } from '$contract/take';
import { growTake } from '$store/take/grow';
import { TakeWriter } from '$store/take/writer';

/** Rows for a take that is there, or for one that begins with them. */
export interface GrowTask {
  path: string;
  placed: OnGrid;
  /** s from one row to the next. */
  stepS: number;
  /** Row after the last one that is kept then. */
  to: number;
  begins: { head: TakeHead; channels: { id: string; name: string; unit: string }[] } | null;
}
export type Grown = { hash: string; lengthNs: number } | { changed: string } | { fault: ErrorText };
const BY = 'the station';
export const rowsSay = (to: number) => ({ Rows: `up to number ${to - 1}` });

/** Writes rows into their take and seals it. Done in a worker thread: the seal reads all that there is. A take that somebody changed since it was sealed does not grow. */
export function growRows(task: GrowTask): Grown {
  try {
    return task.begins ? begun(task, task.begins) : grown(task);
  } catch (error) {
    if (error instanceof FarrierError && error.code === 'conflict') return { changed: error.text.what };
    return { fault: asFarrierError(error, task.path).text };
  }
}

function grown({ path, placed, stepS, to }: GrowTask): { hash: string; lengthNs: number } {
  return growTake(path, BY, {
    runs: placed.runs.map((r) => ({ first: r.first, signals: r.columns })),
    gaps: placed.gaps,
    notes: placed.gaps.map((g) => ({ offsetNs: g.first * stepS * 1e9, kind: 'event', says: g.reason })),
    facts: rowsSay(to),
    reached: to,
  });
}

function begun({ path, placed, stepS, to }: GrowTask, { head, channels }: NonNullable<GrowTask['begins']>): { hash: string; lengthNs: number } {
  let writer: TakeWriter | null = null;
  try {
    writer = new TakeWriter(path, {
      head,
      by: BY,
      groups: [{ offsetNs: 0, rate: { num: 1, den: stepS } }],
      signals: channels.map(({ id, name, unit }) => ({ channelId: id, name, rawUnit: unit, unit, group: 0, junction: null, conversion: IDENTITY, snapshot: null })),
    });
    for (const run of placed.runs) run.columns.forEach((c, k) => writer!.append(k, run.first, c));
    for (const g of placed.gaps) {
      writer.gap(0, g.first, g.count, g.reason);
      writer.note(g.first * stepS * 1e9, 'event', g.reason, BY);
    }
    writer.commit();
    writer.close('complete', placed.end * stepS * 1e9);
    writer = null;
    // From now on it says how far it has been read.
    return growTake(path, BY, { runs: [], gaps: [], notes: [], facts: {}, reached: to });
  } catch (error) {
    writer?.abandon();
    for (const end of ['', '-wal', '-shm']) rmSync(path + end, { force: true });
    throw error;
  }
} // prettier-ignore
