import ExcelJS from 'exceljs';
import { createWriteStream } from 'node:fs';
import { headOf, type Sheet, type SheetColumn } from './sheet';

/** Rows of a sheet, its head among them (ISO/IEC 29500: 2²⁰). */
const ROWS_MOST = 1_048_576;
/** Rows after which what was made is let go to the disk. */
const SOME = 2000;

const FORMAT = { words: '@', numbers: 'General', instants: 'yyyy-mm-dd hh:mm:ss' } as const;

/** Names of sheets: 31 letters, none of :\/?*[], no two alike, no apostrophe at an end. */
export class SheetNames {
  private readonly taken = new Set<string>(['history']);
  of(title: string, part = 1): string {
    const plain = title.replace(/[:\\/?*[\]\p{Cc}]+/gu, '-').replace(/^['\s-]+|['\s-]+$/g, '') || 'Sheet';
    for (let n = 1; ; n++) {
      const end = `${part > 1 ? `, part ${part}` : ''}${n > 1 ? ` ${n}` : ''}`;
      const next = shortened(plain, 31 - end.length) + end;
      if (this.taken.has(next.toLowerCase())) continue;
      this.taken.add(next.toLowerCase());
      return next;
    }
  }
}
/** Not cut within a letter that takes two units. */
const shortened = (text: string, most: number) => {
  let out = '';
  for (const letter of text) {
    if (out.length + letter.length > most) break;
    out += letter;
  }
  return out.trimEnd();
};

/** Writes sheets as an XLSX workbook (ISO/IEC 29500), row by row: heads frozen and filtered, widths, print areas with repeated heads. Text stays text:
 *  nothing in it is a formula. What has more rows than a sheet holds goes on in further sheets.
 *  @param wanted asked after some rows; throws to end it
 *  @param most rows of a sheet, its head among them @returns what is to be said of it @throws Node's error where the disk takes no more */
export async function writeBook(
  to: string,
  sheets: Iterable<Sheet>,
  wanted: () => void,
  most = ROWS_MOST,
): Promise<string[]> {
  const says: string[] = [];
  const file = createWriteStream(to);
  const failed = new Promise<never>((_, reject) => file.once('error', reject));
  failed.catch(() => undefined);
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: file, useStyles: true, useSharedStrings: false, zip: { zlib: { level: 3 } } as never }); // prettier-ignore
  book.creator = 'Farrier';
  book.created = new Date();
  const names = new SheetNames();
  const write = async () => {
    let any = false;
    for (const { title, columns, rows } of sheets) {
      any = true;
      let [part, row] = [1, 0];
      let sheet = begin(book, names.of(title), columns);
      for (const cells of rows) {
        if (row === most - 1) {
          end(sheet, columns, row);
          sheet = begin(book, names.of(title, ++part), columns);
          row = 0;
        }
        sheet.addRow(cells).commit();
        // The disk gets its turn, and so does whoever wants it ended.
        if (++row % SOME === 0) {
          wanted();
          await new Promise((resolve) => setImmediate(resolve));
        }
      }
      end(sheet, columns, row);
      if (part > 1) says.push(`${title} goes on over ${part} sheets: one holds ${most - 1} rows.`);
    }
    if (!any) begin(book, 'Empty', [{ label: 'Nothing was chosen', holds: 'words' }]).commit();
    wanted();
    await book.commit();
  };
  try {
    await Promise.race([write(), failed]);
  } catch (error) {
    file.destroy();
    throw error;
  }
  return says;
}

function begin(book: ExcelJS.stream.xlsx.WorkbookWriter, name: string, columns: SheetColumn[]) {
  const sheet = book.addWorksheet(name, {
    views: [{ state: 'frozen', ySplit: 1, xSplit: 1 }],
    pageSetup: { orientation: columns.length > 6 ? 'landscape' : 'portrait', paperSize: 9, fitToPage: true, fitToWidth: 1, fitToHeight: 0, printTitlesRow: '1:1' },
  }); // prettier-ignore
  sheet.columns = columns.map((column) => ({
    width: widthOf(column),
    style: { numFmt: FORMAT[column.holds] },
  }));
  const head = sheet.addRow(columns.map(headOf));
  head.font = { bold: true };
  head.alignment = { wrapText: true, vertical: 'top' };
  head.commit();
  return sheet;
}

function end(sheet: ExcelJS.Worksheet, columns: SheetColumn[], rows: number): void {
  const last = `${letterOf(columns.length)}${rows + 1}`;
  sheet.autoFilter = `A1:${last}`;
  sheet.pageSetup.printArea = `A1:${last}`;
  sheet.commit();
}

const widthOf = (column: SheetColumn) => {
  const usual = { words: 18, numbers: 12, instants: 20 }[column.holds];
  return Math.min(42, Math.max(usual, headOf(column).length + 2));
};
/** 28 is “AB”. */
const letterOf = (column: number): string =>
  column > 26
    ? letterOf(Math.floor((column - 1) / 26)) + letterOf(((column - 1) % 26) + 1)
    : String.fromCharCode(64 + column);
