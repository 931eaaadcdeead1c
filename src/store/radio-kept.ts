import { and, asc, eq, isNull } from 'drizzle-orm';
import { decode, encode } from 'cbor2';
import { notFound } from '$core/errors';
import type { Db } from './database';
import * as t from './tables';

/** Something of radio that is kept: by a name of the house, or as a result of a job. */
export interface KeptRow {
  id: string;
  jobId: string | null;
  kind: string;
  name: string;
  at: number;
  body: Record<string, unknown>;
}

const plain = ({ id, jobId, kind, name, at, body }: typeof t.radioKept.$inferSelect): KeptRow => ({
  id,
  jobId,
  kind,
  name,
  at,
  body: body as Record<string, unknown>,
});

/** What is kept of a kind, oldest first. @param jobId null: of the house */
export const listKept = (db: Db, kind: string, jobId: string | null): KeptRow[] =>
  db
    .select()
    .from(t.radioKept)
    .where(and(eq(t.radioKept.kind, kind), jobId ? eq(t.radioKept.jobId, jobId) : isNull(t.radioKept.jobId)))
    .orderBy(asc(t.radioKept.at))
    .all()
    .map(plain);

/** @throws `not_found` */
export function getKept(db: Db, id: string): KeptRow & { arrays: unknown } {
  const row = db.select().from(t.radioKept).where(eq(t.radioKept.id, id)).get();
  if (!row) throw notFound('record', id);
  return { ...plain(row), arrays: row.arrays && decode(row.arrays) };
}

/** Keeps something; one of that id is written over. @param arrays long ones, kept as CBOR; undefined leaves them as they are */
export function putKept(db: Db, row: KeptRow, arrays?: unknown): void {
  const packed = arrays === undefined ? {} : { arrays: Buffer.from(encode(arrays)) };
  db.insert(t.radioKept)
    .values({ ...row, ...packed })
    .onConflictDoUpdate({ target: t.radioKept.id, set: { ...row, ...packed } })
    .run();
}

/** @throws `not_found` */
export function deleteKept(db: Db, id: string): void {
  if (db.delete(t.radioKept).where(eq(t.radioKept.id, id)).run().changes === 0) throw notFound('record', id);
}
