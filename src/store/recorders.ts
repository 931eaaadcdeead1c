import { asc, eq } from 'drizzle-orm';
import type { RecorderState } from '$core/field/recorder/state';
import type { Placed } from '$contract/field';
import type { Db } from './database';
import * as t from './tables';

/** What is kept of a recorder. */
export interface KeptRecorder {
  state: RecorderState;
  /** Of its recording: readings that are fetched, and the take that they are. */
  run: number;
  fetched: number;
  takeId: string | null;
  aheadS: number;
  /** Alarms that were raised of it, by what they are of: none is raised twice. */
  raised: string[];
  /** Who put it where. */
  placed?: Placed | null;
}
export interface RecorderRow extends KeptRecorder {
  serial: string;
  seenAt: number;
}

const rowOf = ({ serial, seenAt, body }: typeof t.recorders.$inferSelect): RecorderRow => ({ serial, seenAt, ...(body as KeptRecorder) }); // prettier-ignore

export const listRecorders = (db: Db): RecorderRow[] =>
  db.select().from(t.recorders).orderBy(asc(t.recorders.serial)).all().map(rowOf);
export const findRecorder = (db: Db, serial: string): RecorderRow | null => {
  const row = db.select().from(t.recorders).where(eq(t.recorders.serial, serial)).get();
  return row ? rowOf(row) : null;
};
export const putRecorder = (db: Db, { serial, seenAt, ...body }: RecorderRow): void =>
  void db
    .insert(t.recorders)
    .values({ serial, seenAt, body })
    .onConflictDoUpdate({ target: t.recorders.serial, set: { seenAt, body } })
    .run();
