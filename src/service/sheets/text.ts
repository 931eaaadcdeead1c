import { quote } from '$core/formats/csv/csv';
import type { Piece } from '$core/formats/format';
import { FileNames } from '$core/formats/file-names';
import type { Spreadsheet } from '$contract/spreadsheet';
import { headOf, type Sheet, type SheetCell } from './sheet';

type Writing = Pick<Spreadsheet, 'separator' | 'decimal' | 'encoding' | 'ends'>;
const SEPARATOR = { comma: ',', semicolon: ';', tab: '\t' };
const END = { 'CR LF': '\r\n', LF: '\n' };
/** Rows that are made at a time. */
const SOME = 2000;

/** Sheets as one text after the other, or each as a file of its own (RFC 4180 with the separator that is wanted). Text that a program would run as a formula
 *  is led by an apostrophe. */
export function* textOf(sheets: Iterable<Sheet>, writing: Writing, folder: boolean): Generator<Piece> {
  const encode = encoder(writing.encoding);
  const names = new FileNames();
  const separator = SEPARATOR[writing.separator];
  const end = END[writing.ends];
  const cell = (value: SheetCell) => cellText(value, separator, writing.decimal);
  let first = true;
  for (const { title, columns, rows } of sheets) {
    if (folder) yield { file: names.of(title, '.csv') };
    if (folder || first) yield encode.mark;
    else yield encode.bytes(`${end}${quote(title, separator)}${end}`);
    first = false;
    let text = columns.map((c) => quote(headOf(c), separator)).join(separator) + end;
    let n = 0;
    for (const row of rows) {
      text += row.map(cell).join(separator) + end;
      if (++n % SOME === 0) {
        yield encode.bytes(text);
        text = '';
      }
    }
    yield encode.bytes(text);
  }
}

function cellText(value: SheetCell, separator: string, decimal: 'point' | 'comma'): string {
  if (value === null) return '';
  if (value instanceof Date) return value.toISOString().replace('T', ' ').replace(/\.000Z$|Z$/, ''); // prettier-ignore
  if (typeof value === 'string') return quote(value, separator);
  const text = decimal === 'comma' ? String(value).replace('.', ',') : String(value);
  return text.includes(separator) ? `"${text}"` : text;
}

/** Text as bytes of an encoding; what it cannot write becomes a question mark. */
function encoder(encoding: Spreadsheet['encoding']): { mark: Uint8Array; bytes(text: string): Uint8Array } {
  const utf8 = new TextEncoder();
  switch (encoding) {
    case 'UTF-8 with mark':
      return { mark: Uint8Array.of(0xef, 0xbb, 0xbf), bytes: (text) => utf8.encode(text) };
    case 'UTF-8':
      return { mark: new Uint8Array(0), bytes: (text) => utf8.encode(text) };
    case 'UTF-16':
      return { mark: Uint8Array.of(0xff, 0xfe), bytes: (text) => new Uint8Array(Buffer.from(text, 'utf16le')) }; // prettier-ignore
    case 'Windows-1252': {
      const known = new Map(Array.from({ length: 256 }, (_, i) => [new TextDecoder('windows-1252').decode(Uint8Array.of(i)), i])); // prettier-ignore
      return { mark: new Uint8Array(0), bytes: (text) => Uint8Array.from(text, (letter) => known.get(letter) ?? 0x3f) }; // prettier-ignore
    }
  }
}
