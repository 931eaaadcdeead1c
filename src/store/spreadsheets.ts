import { notFound } from '$core/errors';
import { asc, eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type SpreadsheetRow = typeof t.spreadsheets.$inferSelect;

export const listSpreadsheets = (db: Db, jobId: string): SpreadsheetRow[] =>
  db
    .select()
    .from(t.spreadsheets)
    .where(eq(t.spreadsheets.jobId, jobId))
    .orderBy(asc(t.spreadsheets.position))
    .all();

/** @throws `not_found` */
export function getSpreadsheet(db: Db, id: string): SpreadsheetRow {
  const row = db.select().from(t.spreadsheets).where(eq(t.spreadsheets.id, id)).get();
  if (!row) throw notFound('spreadsheet', id);
  return row;
}
export const insertSpreadsheet = (db: Db, row: SpreadsheetRow): void =>
  void db.insert(t.spreadsheets).values(row).run();
export const updateSpreadsheet = (db: Db, id: string, to: { name: string; body: unknown }): void =>
  void db.update(t.spreadsheets).set(to).where(eq(t.spreadsheets.id, id)).run();
export const deleteSpreadsheet = (db: Db, id: string): void =>
  void db.delete(t.spreadsheets).where(eq(t.spreadsheets.id, id)).run();
