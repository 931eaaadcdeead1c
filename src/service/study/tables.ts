import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import Papa from 'papaparse';
import { notFound } from '$core/errors';
import { columnTitle, rowsOf } from '$core/figures/table';
import { resultTables, type StudyResult } from '$core/studies/study';
import { ResultStore } from '$store/results';

/** Rows that are written at a time. */
const SOME = 10_000;

/** Writes a table of a result with all its rows and full numbers (RFC 4180). @returns its title @throws `not_found`, `damaged` */
export function writeTable(path: string, at: number, to: string): string {
  const table = resultTables(ResultStore.from<StudyResult>(path))[at];
  if (!table) throw notFound('table of the result', String(at + 1));
  const file = openSync(to, 'w');
  try {
    const write = (rows: unknown[][]) =>
      writeSync(file, `${Papa.unparse(rows, { escapeFormulae: true })}\r\n`);
    writeSync(file, '\ufeff');
    write([table.columns.map(columnTitle)]);
    for (let first = 0; first < table.length; first += SOME)
      write(rowsOf(table, first, SOME).map((row) => row.map((cell) => cell ?? '')));
  } catch (error) {
    rmSync(to, { force: true });
    throw error;
  } finally {
    closeSync(file);
  }
  return table.title;
}
