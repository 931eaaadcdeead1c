import { conflict, notFound } from '$core/errors';
import { and, asc, eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type ReportRow = typeof t.reports.$inferSelect;

export const listReports = (db: Db, jobId: string): ReportRow[] =>
  db.select().from(t.reports).where(eq(t.reports.jobId, jobId)).orderBy(asc(t.reports.position)).all();

/** @throws `not_found` */
export function getReport(db: Db, id: string): ReportRow {
  const row = db.select().from(t.reports).where(eq(t.reports.id, id)).get();
  if (!row) throw notFound('report', id);
  return row;
}
export const insertReport = (db: Db, row: ReportRow): void => void db.insert(t.reports).values(row).run();

/** Writes a report that stands at a version, which rises by one. @throws `conflict` where somebody else has changed it since */
export function updateReport(db: Db, id: string, version: number, body: unknown): void {
  const { changes } = db
    .update(t.reports)
    .set({ body, version: version + 1 })
    .where(and(eq(t.reports.id, id), eq(t.reports.version, version)))
    .run();
  if (changes === 0)
    throw conflict(
      'report',
      getReport(db, id) && 'Somebody else has changed it meanwhile.',
      'It is shown as it is now: make your change again.',
    );
}
export const deleteReport = (db: Db, id: string): void =>
  void db.delete(t.reports).where(eq(t.reports.id, id)).run();
