import { notFound } from '$core/errors';
import type { TakeHead } from '$contract/take';
import type { TakeAbout } from '$contract/take-list';
import { and, desc, eq, inArray, isNotNull, isNull, max, ne } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

type Row = typeof t.takes.$inferSelect;
export type TakeRow = Omit<Row, 'about'> & { about: TakeAbout | null };

/** Takes of a job, newest first: neither those in the bin nor those that are gone. */
export const listTakes = (db: Db, jobId: string): TakeRow[] =>
  db
    .select()
    .from(t.takes)
    .where(and(eq(t.takes.jobId, jobId), isNull(t.takes.binnedAt), isNull(t.takes.goneAt)))
    .orderBy(desc(t.takes.startedAt))
    .all() as TakeRow[];

/** A line of the list as it is kept: what is JSON still as text. */
export type TakeText = Pick<
  Row,
  'id' | 'number' | 'name' | 'folder' | 'state' | 'startedAt' | 'durationMs' | 'bytes'
> & {
  tags: string;
  about: string | null;
};

/** Closed takes of a job as texts, newest first: a list of thousands is read at every letter that is typed. @param binned those in the bin */
export const takeTexts = (db: Db, jobId: string, binned: boolean): TakeText[] =>
  db.$client
    .prepare(
      `SELECT id, number, name, folder, state, started_at startedAt, duration_ms durationMs, bytes, tags, about FROM takes
       WHERE job_id = ? AND gone_at IS NULL AND state <> 'recording' AND binned_at IS ${binned ? 'NOT NULL ORDER BY binned_at DESC' : 'NULL ORDER BY started_at DESC'}`,
    )
    .all(jobId) as TakeText[];

/** Takes of a job that lie in the bin, the last one first. */
export const listBin = (db: Db, jobId: string): TakeRow[] =>
  db
    .select()
    .from(t.takes)
    .where(and(eq(t.takes.jobId, jobId), isNotNull(t.takes.binnedAt), isNull(t.takes.goneAt)))
    .orderBy(desc(t.takes.binnedAt))
    .all() as TakeRow[];

/** @throws `not_found` */
export function getTake(db: Db, id: string): TakeRow {
  const row = db.select().from(t.takes).where(eq(t.takes.id, id)).get();
  if (!row) throw notFound('take', id);
  return row as TakeRow;
}

/** What takes are called, by their ids: of those whose files are there. */
export const takeNames = (db: Db, ids: string[]): Map<string, string> =>
  new Map(
    db
      .select({ id: t.takes.id, name: t.takes.name })
      .from(t.takes)
      .where(and(inArray(t.takes.id, ids), isNull(t.takes.goneAt)))
      .all()
      .map(({ id, name }) => [id, name]),
  );

/** Lists a take by what its file says of itself. Its name and number on the list stay what they are. */
export function putTake(db: Db, head: TakeHead, durationMs: number): void {
  const row = {
    id: head.id,
    jobId: head.jobId,
    number: head.number,
    name: head.name,
    folder: head.folder,
    state: head.state,
    startedAt: Number(BigInt(head.startNs) / 1_000_000n),
    durationMs,
  };
  db.insert(t.takes).values(row).onConflictDoUpdate({ target: t.takes.id, set: row }).run();
}

/** Ids of takes whose files need no look at a start: they were closed, and what is in them is known. */
export const closedTakes = (db: Db): Set<string> =>
  new Set(
    db
      .select({ id: t.takes.id })
      .from(t.takes)
      .where(and(ne(t.takes.state, 'recording'), isNotNull(t.takes.about)))
      .all()
      .map((row) => row.id),
  );

type Change = Partial<Pick<Row, 'name' | 'tags' | 'bytes' | 'binnedAt' | 'binnedBy' | 'goneAt'>> & {
  about?: TakeAbout;
};
export const changeTakes = (db: Db, ids: string[], change: Change): void =>
  void db.update(t.takes).set(change).where(inArray(t.takes.id, ids)).run();

export function nextTakeNumber(db: Db, jobId: string): number {
  const row = db
    .select({ last: max(t.takes.number) })
    .from(t.takes)
    .where(eq(t.takes.jobId, jobId))
    .get();
  return (row?.last ?? 0) + 1;
}

// Strips

/** Small pictures that are kept of a channel of some takes. */
export const keptStrips = (db: Db, takeIds: string[], channel: string): Map<string, Buffer> =>
  new Map(
    db
      .select()
      .from(t.strips)
      .where(and(inArray(t.strips.takeId, takeIds), eq(t.strips.channel, channel)))
      .all()
      .map((row) => [row.takeId, row.content]),
  );
export const keepStrip = (db: Db, takeId: string, channel: string, content: Buffer): void =>
  void db
    .insert(t.strips)
    .values({ takeId, channel, content })
    .onConflictDoUpdate({ target: [t.strips.takeId, t.strips.channel], set: { content } })
    .run();
export const forgetStrips = (db: Db, takeId: string): void =>
  void db.delete(t.strips).where(eq(t.strips.takeId, takeId)).run();
