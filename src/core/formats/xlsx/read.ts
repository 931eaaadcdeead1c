import { badInput, damaged, FarrierError } from '../../errors';
import { csvReading } from '../csv/read';
import type { Recording, Source } from '../format';
import { openBook } from './book';

/** A sheet of a workbook as a recording: the one that is named, else the first that holds a table of numbers. @throws `bad_input`, `damaged` */
export function readWorkbook(
  source: Source,
  { sheet, ...how }: { sheet: string | null } & Partial<typeof csvReading.defaults>,
): Recording {
  try {
    const book = openBook(source);
    const wanted = sheet === null ? book.sheets : book.sheets.filter((s) => s.toLowerCase() === sheet.toLowerCase()); // prettier-ignore
    if (wanted.length === 0)
      throw badInput('sheet', sheet ?? 'none', `There are ${book.sheets.map((s) => `“${s}”`).join(', ') || 'no sheets'}.`); // prettier-ignore
    let fault: unknown = null;
    for (const name of wanted) {
      try {
        const recording = csvReading.read(asSource(source.name, book.rows(name)), { ...csvReading.defaults, separator: 'tab', decimal: 'point', ...how }); // prettier-ignore
        return wanted.length < 2 && book.sheets.length < 2 ? recording : { ...recording, facts: [...recording.facts, ['Sheet', name]] }; // prettier-ignore
      } catch (error) {
        if (!(error instanceof FarrierError) || error.code !== 'bad_input') throw error;
        fault ??= error;
      }
    }
    throw fault as Error;
  } catch (error) {
    if (error instanceof FarrierError) throw error;
    throw damaged(source.name, `The workbook cannot be read: ${String((error as Error).message).slice(0, 200)}.`, 'Save it again as XLSX.'); // prettier-ignore
  }
}

/** Rows as a table of text. */
function asSource(name: string, rows: Iterable<string[]>): Source {
  const parts: Uint8Array[] = [];
  let text = '';
  const encoder = new TextEncoder();
  const keep = () => {
    parts.push(encoder.encode(text));
    text = '';
  };
  for (const row of rows) {
    text += `${row.map((cell) => cell.replace(/[\t\r\n"]+/g, ' ')).join('\t')}\n`;
    if (text.length > 1 << 20) keep();
  }
  keep();
  const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return { name, length: bytes.length, read: (from, count) => bytes.subarray(from, from + count) };
}
