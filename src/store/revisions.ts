import { and, asc, desc, eq, gt } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type Revision = typeof t.revisions.$inferSelect;

/** Keeps a change. What was undone when it was made cannot be made again after it, not even once this one is undone, too. */
export function insertRevision(db: Db, revision: Omit<typeof t.revisions.$inferInsert, 'id'>): void {
  db.transaction((tx) => {
    tx.update(t.revisions)
      .set({ gone: true })
      .where(and(eq(t.revisions.jobId, revision.jobId), eq(t.revisions.undone, true)))
      .run();
    tx.insert(t.revisions).values(revision).run();
  });
}

/** Changes of a job that stand, newest first. @param since only after this time */
export const listRevisions = (db: Db, jobId: string, limit: number, since = 0): Revision[] =>
  db
    .select()
    .from(t.revisions)
    .where(and(eq(t.revisions.jobId, jobId), eq(t.revisions.undone, false), gt(t.revisions.at, since)))
    .orderBy(desc(t.revisions.id))
    .limit(limit)
    .all();

/** The change that undo takes back. */
export const lastDone = (db: Db, jobId: string): Revision | undefined =>
  db
    .select()
    .from(t.revisions)
    .where(and(eq(t.revisions.jobId, jobId), eq(t.revisions.undone, false)))
    .orderBy(desc(t.revisions.id))
    .get();

/** The change that redo makes again: the first one undone after the last that stands. */
export function firstUndone(db: Db, jobId: string): Revision | undefined {
  const after = lastDone(db, jobId)?.id ?? 0;
  return db
    .select()
    .from(t.revisions)
    .where(and(eq(t.revisions.jobId, jobId), eq(t.revisions.undone, true), eq(t.revisions.gone, false)))
    .orderBy(asc(t.revisions.id))
    .all()
    .find((r) => r.id > after);
}
/** Changes of studies, of all jobs. */
export const studyRevisions = (db: Db): Revision[] =>
  db.select().from(t.revisions).where(eq(t.revisions.kind, 'study')).all();
export const markUndone = (db: Db, id: number, undone: boolean): void =>
  void db.update(t.revisions).set({ undone }).where(eq(t.revisions.id, id)).run();
