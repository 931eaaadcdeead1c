import { asc, eq } from 'drizzle-orm';
import { notFound } from '$core/errors';
import { DRIVEN_USUAL, type AnalysisBody } from '$contract/modal';
import type { Db } from './database';
import * as t from './modal-tables';

export interface AnalysisRow {
  id: string;
  jobId: string;
  name: string;
  createdAt: number;
  body: AnalysisBody;
}
/** Bodies as they are now: those of earlier versions know nothing of forces. */
const read = (row: typeof t.modal.$inferSelect): AnalysisRow => {
  const body = row.body as AnalysisBody;
  const sets = body.sets.map((s) => ({
    ...s,
    correlate: { ...DRIVEN_USUAL, ...s.correlate },
    facts: s.facts && { ...{ forces: [], hits: [], reachHz: [], coherence: [], notes: [] }, ...s.facts },
  }));
  return { ...row, body: { ...body, sets } };
};

export const listAnalyses = (db: Db, jobId: string): AnalysisRow[] =>
  db.select().from(t.modal).where(eq(t.modal.jobId, jobId)).orderBy(asc(t.modal.createdAt)).all().map(read);
export const allAnalyses = (db: Db): AnalysisRow[] => db.select().from(t.modal).all().map(read);

/** @throws `not_found` */
export function getAnalysis(db: Db, id: string): AnalysisRow {
  const row = db.select().from(t.modal).where(eq(t.modal.id, id)).get();
  if (!row) throw notFound('analysis', id);
  return read(row);
}

export const putAnalysis = (db: Db, row: AnalysisRow): void =>
  void db.insert(t.modal).values(row).onConflictDoUpdate({ target: t.modal.id, set: row }).run();

export const deleteAnalysis = (db: Db, id: string): void =>
  void db.delete(t.modal).where(eq(t.modal.id, id)).run();
