import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import { asFarrierError, cancelled, type ErrorText } from '$core/errors';
import { bytesOf } from '$core/formats/zipped';
import { FILE_KINDS, type Spreadsheet } from '$contract/spreadsheet';
import type { Watched } from '../watched';
import { writeBook } from './book';
import type { Sheet, WholeSheet } from './sheet';
import { TakesToWrite, type SheetTake } from './takes';
import { textOf } from './text';

export interface SheetsTask {
  wanted: Spreadsheet;
  takes: SheetTake[];
  /** Those that are known already, by the part that they belong to. */
  tables: { part: Spreadsheet['parts'][number]; sheet: WholeSheet }[];
  to: string;
}
export type SheetsOutcome = { says: string[] } | { fault: ErrorText };

/** Writes takes as a spreadsheet. Done in a worker thread. A file that is not whole is taken away. */
export async function writeSheets(
  { wanted, takes, tables, to }: SheetsTask,
  { progress, signal }: Watched,
): Promise<SheetsOutcome> {
  const stillWanted = () => {
    if (signal.aborted) throw cancelled('spreadsheet');
  };
  const reading = new TakesToWrite(takes, wanted, (share) => {
    stillWanted();
    progress(share);
  });
  function* sheets(): Generator<Sheet> {
    for (const part of ['summary', 'results', 'statistics', 'channels', 'samples', 'marks'] as const) {
      if (!wanted.parts.includes(part)) continue;
      if (part === 'statistics') yield* reading.statistics();
      if (part === 'samples') yield* reading.samples();
      for (const table of tables) if (table.part === part) yield table.sheet;
    }
  }
  try {
    const says =
      wanted.as === FILE_KINDS[0]
        ? await writeBook(to, sheets(), stillWanted)
        : writeText(to, wanted, sheets(), stillWanted);
    return { says: [...says, ...reading.says] };
  } catch (error) {
    rmSync(to, { force: true });
    return { fault: asFarrierError(error, 'spreadsheet').text };
  }
}

function writeText(to: string, wanted: Spreadsheet, sheets: Iterable<Sheet>, still: () => void): string[] {
  const file = openSync(to, 'w');
  try {
    for (const bytes of bytesOf(textOf(sheets, wanted, wanted.as === FILE_KINDS[2]))) {
      still();
      for (let done = 0; done < bytes.length;) done += writeSync(file, bytes, done);
    }
  } finally {
    closeSync(file);
  }
  return [];
}
