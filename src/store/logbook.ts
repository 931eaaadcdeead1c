import { createHash } from 'node:crypto';
import { notFound } from '$core/errors';
import { and, asc, desc, eq, like, lt, type SQL } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type LogRow = typeof t.logbook.$inferSelect;
type NewEntry = Pick<LogRow, 'at' | 'jobId' | 'takeId' | 'kind' | 'says' | 'by'> & {
  picture?: { type: string; content: Buffer };
};

/** Hash of an entry and of the one before it: an entry that is altered, taken out or put between breaks the chain from there on. */
const hashOf = (before: string, e: Omit<LogRow, 'id' | 'hash' | 'picture'>, picture: string) =>
  createHash('sha256')
    .update(JSON.stringify([before, e.at, e.jobId, e.takeId, e.kind, e.says, e.by, picture]))
    .digest('hex');
const pictureHash = (content: Buffer | undefined) =>
  content ? createHash('sha256').update(content).digest('hex') : '';

/** Adds an entry at the end of the chain; there is nothing that changes one. */
export function insertLog(db: Db, { picture, ...entry }: NewEntry): void {
  db.transaction((tx) => {
    const last = tx
      .select({ hash: t.logbook.hash })
      .from(t.logbook)
      .orderBy(desc(t.logbook.id))
      .limit(1)
      .get();
    const pictureId = picture ? Number(tx.insert(t.pictures).values(picture).run().lastInsertRowid) : null;
    const hash = hashOf(last?.hash ?? '', entry, pictureHash(picture?.content));
    tx.insert(t.logbook)
      .values({ ...entry, picture: pictureId, hash })
      .run();
  });
}

/** What of the logbook is wanted. */
export interface LogFilter {
  kind?: string;
  takeId?: string;
  text?: string;
  /** Only older than this id, for the next page. */
  before?: number;
}

/** Entries of a job, newest first. */
export function listLog(db: Db, jobId: string, limit: number, filter: LogFilter = {}): LogRow[] {
  const { kind, takeId, text, before } = filter;
  const where: (SQL | undefined)[] = [
    eq(t.logbook.jobId, jobId),
    kind ? eq(t.logbook.kind, kind) : undefined,
    takeId ? eq(t.logbook.takeId, takeId) : undefined,
    text ? like(t.logbook.says, `%${text.replace(/[%_]/g, '')}%`) : undefined,
    before ? lt(t.logbook.id, before) : undefined,
  ];
  return db
    .select()
    .from(t.logbook)
    .where(and(...where))
    .orderBy(desc(t.logbook.at), desc(t.logbook.id))
    .limit(limit)
    .all();
}

/** Kinds of entries that a job has. */
export const logKinds = (db: Db, jobId: string): string[] =>
  db
    .selectDistinct({ kind: t.logbook.kind })
    .from(t.logbook)
    .where(eq(t.logbook.jobId, jobId))
    .orderBy(asc(t.logbook.kind))
    .all()
    .map((r) => r.kind);

/** @throws `not_found` */
export function getPicture(db: Db, id: number): { type: string; content: Buffer } {
  const row = db.select().from(t.pictures).where(eq(t.pictures.id, id)).get();
  if (!row) throw notFound('picture', String(id));
  return row;
}

/** Follows the chain through all entries. @returns how many stand, and the first that does not; entries from before there was a chain are passed over */
export function checkChain(db: Db): { entries: number; broken: LogRow | null } {
  const rows = db
    .select({ entry: t.logbook, content: t.pictures.content })
    .from(t.logbook)
    .leftJoin(t.pictures, eq(t.pictures.id, t.logbook.picture))
    .orderBy(asc(t.logbook.id))
    .all();
  let before = '';
  let entries = 0;
  for (const { entry, content } of rows) {
    if (entry.hash === null && before === '') continue;
    if (entry.hash !== hashOf(before, entry, pictureHash(content ?? undefined)))
      return { entries, broken: entry };
    before = entry.hash;
    entries++;
  }
  return { entries, broken: null };
}

/** Keeps a picture that stands by itself. @returns its id */
/** Number of a picture that is kept already. */
export const findPicture = (db: Db, content: Buffer): number | undefined =>
  db.select({ id: t.pictures.id }).from(t.pictures).where(eq(t.pictures.content, content)).get()?.id;
export const insertPicture = (db: Db, picture: { type: string; content: Buffer }): number =>
  Number(db.insert(t.pictures).values(picture).run().lastInsertRowid);
