import { conflict, notFound } from '$core/errors';
import { and, asc, eq, isNotNull, isNull } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type ReportRow = typeof t.reports.$inferSelect;

/** @param gone those that were taken away instead of those that there are */
export const listReports = (db: Db, jobId: string, gone = false): ReportRow[] =>
  db
    .select()
    .from(t.reports)
    .where(and(eq(t.reports.jobId, jobId), gone ? isNotNull(t.reports.goneAt) : isNull(t.reports.goneAt)))
    .orderBy(asc(t.reports.position))
    .all();

/** @throws `not_found` */
export function getReport(db: Db, id: string, gone = false): ReportRow {
  const row = db.select().from(t.reports).where(eq(t.reports.id, id)).get();
  if (!row || (row.goneAt !== null) !== gone) throw notFound('report', id);
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
/** Takes a report away, or brings it back. @param goneAt ms since 1970; null brings it back */
export const setReportGone = (db: Db, id: string, goneAt: number | null): void =>
  void db.update(t.reports).set({ goneAt }).where(eq(t.reports.id, id)).run();
