import { unzipSync } from 'fflate';
import { SaxesParser } from 'saxes';
import { badInput, damaged } from '../../errors';
import type { Source } from '../format';

/** A workbook is read whole, bytes; and what it may unpack to. */
const BYTES_MOST = 200e6;
const UNPACKED_MOST = 400e6;
/** Cells of a sheet that are read. */
const CELLS_MOST = 20e6;
const COLUMNS_MOST = 16_384;
const DAY_MS = 86_400_000;

export interface Book {
  /** Names of its sheets, in their order. */
  sheets: string[];
  /** Cells of a sheet as text: numbers in full, dates as ISO 8601. Rows that are empty are left out. */
  rows(sheet: string): string[][];
}

/** Opens a workbook; what it says of its sizes is checked before anything is unpacked. @throws `damaged`, `bad_input` */
export function openBook(source: Source): Book {
  if (source.length > BYTES_MOST)
    throw badInput('file', `${Math.round(source.length / 1e6)} MB`, `Workbooks up to ${BYTES_MOST / 1e6} MB are read: save the sheet as CSV.`); // prettier-ignore
  const packed = source.read(0, source.length);
  let unpacked = 0;
  const part = (wanted: (name: string) => boolean) =>
    unzipSync(packed, {
      filter: ({ name, originalSize }) => {
        if (!wanted(name)) return false;
        unpacked += originalSize;
        if (unpacked > UNPACKED_MOST) throw badInput('file', `${Math.round(unpacked / 1e6)} MB when it is unpacked`, `Up to ${UNPACKED_MOST / 1e6} MB are read: save the sheet as CSV.`); // prettier-ignore
        return true;
      },
    });
  const frame = part((name) => /^xl\/(workbook\.xml|_rels\/workbook\.xml\.rels|sharedStrings\.xml|styles\.xml)$/.test(name)); // prettier-ignore
  const text = (name: string) => frame[name] && new TextDecoder().decode(frame[name]);
  const workbook = text('xl/workbook.xml');
  if (!workbook) throw damaged(source.name, 'It is no workbook.', 'Save it again as XLSX.');
  const places = new Map<string, string>();
  each(text('xl/_rels/workbook.xml.rels') ?? '', (tag, of) => {
    if (tag === 'Relationship') places.set(of.Id, of.Target);
  });
  const sheets = new Map<string, string>();
  let since1904 = false;
  each(workbook, (tag, of) => {
    if (tag === 'sheet') sheets.set(of.name, placeOf(places.get(of['r:id']) ?? ''));
    if (tag === 'workbookPr') since1904 = of.date1904 === '1' || of.date1904 === 'true';
  });
  const words = wordsOf(text('xl/sharedStrings.xml') ?? '');
  const dated = datesOf(text('xl/styles.xml') ?? '');
  return {
    sheets: [...sheets.keys()],
    rows(sheet) {
      const place = sheets.get(sheet)!;
      const bytes = part((name) => name === place)[place];
      if (!bytes) throw damaged(sheet, 'This sheet is not in the workbook.', 'Save it again as XLSX.');
      return rowsOf(bytes, { words, dated, since1904 }, sheet);
    },
  };
}
const placeOf = (target: string) => (target.startsWith('/') ? target.slice(1) : `xl/${target}`);

type Attributes = Record<string, string>;

/** Goes through the tags of a document; entities of its own are not known to the parser and are refused. */
function each(xml: string, open: (tag: string, of: Attributes) => void, close?: (tag: string) => void, words?: (text: string) => void): void {
  const parser = new SaxesParser();
  parser.on('opentag', (tag) => open(bare(tag.name), tag.attributes as Attributes));
  if (close) parser.on('closetag', (tag) => close(bare(tag.name)));
  if (words) parser.on('text', words);
  if (xml) parser.write(xml).close();
} // prettier-ignore
const bare = (name: string) => name.slice(name.indexOf(':') + 1);

function wordsOf(xml: string): string[] {
  const out: string[] = [];
  let own = '';
  let inside = false;
  each(
    xml,
    (tag) => {
      if (tag === 'si') own = '';
      inside = tag === 't';
    },
    (tag) => {
      if (tag === 'si') out.push(own);
      inside = false;
    },
    (text) => {
      if (inside) own += text;
    },
  );
  return out;
}

/** Of each style, whether its numbers are dates. */
function datesOf(xml: string): boolean[] {
  const codes = new Map<string, string>();
  const out: boolean[] = [];
  let cells = false;
  each(
    xml,
    (tag, of) => {
      if (tag === 'numFmt') codes.set(of.numFmtId, of.formatCode ?? '');
      if (tag === 'cellXfs') cells = true;
      if (tag === 'xf' && cells) out.push(isDate(Number(of.numFmtId ?? 0), codes.get(of.numFmtId)));
    },
    (tag) => {
      if (tag === 'cellXfs') cells = false;
    },
  );
  return out;
}
/** Built-in formats 14 to 22 and 45 to 47 are dates and times (ISO/IEC 29500-1, 18.8.30); others by the letters of their code. */
const isDate = (id: number, code: string | undefined) =>
  code === undefined
    ? (id >= 14 && id <= 22) || (id >= 45 && id <= 47)
    : /[ymdhs]/i.test(code.replace(/"[^"]*"|\\.|\[(?!h+\]|m+\]|s+\])[^\]]*\]/gi, '').replace(/general/i, ''));

interface Reading {
  words: string[];
  dated: boolean[];
  since1904: boolean;
}

function rowsOf(bytes: Uint8Array, reading: Reading, sheet: string): string[][] {
  const rows: string[][] = [];
  let cells = 0;
  let row: string[] = [];
  let at = { column: 0, type: 'n', style: 0 };
  let next = 0;
  let value = '';
  let inside = false;
  const parser = new SaxesParser();
  parser.on('opentag', ({ name, attributes }) => {
    const of = attributes as Attributes;
    const tag = bare(name);
    if (tag === 'row') [row, next] = [[], 0];
    else if (tag === 'c') {
      const column = of.r ? columnOf(of.r) : next;
      if (column >= COLUMNS_MOST || ++cells > CELLS_MOST)
        throw badInput('sheet', sheet, `Up to ${CELLS_MOST / 1e6} million cells are read: save it as CSV.`);
      next = column + 1;
      at = { column, type: of.t ?? 'n', style: Number(of.s ?? 0) };
      value = '';
    }
    inside = tag === 'v' || tag === 't';
  });
  parser.on('text', (text) => {
    if (inside) value += text;
  });
  parser.on('closetag', ({ name }) => {
    const tag = bare(name);
    inside = false;
    if (tag === 'c' && value !== '') {
      while (row.length < at.column) row.push('');
      row[at.column] = shown(value, at, reading);
    }
    if (tag === 'row' && row.length > 0) rows.push(row);
  });
  const decoder = new TextDecoder();
  for (let from = 0; from < bytes.length; from += 1 << 20)
    parser.write(
      decoder.decode(bytes.subarray(from, from + (1 << 20)), { stream: from + (1 << 20) < bytes.length }),
    );
  parser.close();
  return rows;
}

/** “BC12” is in column 54. */
function columnOf(place: string): number {
  let column = 0;
  for (const letter of place) {
    const n = letter.charCodeAt(0) - 64;
    if (n < 1 || n > 26) break;
    column = column * 26 + n;
  }
  return column - 1;
}

function shown(
  value: string,
  { type, style }: { type: string; style: number },
  { words, dated, since1904 }: Reading,
): string {
  if (type === 's') return words[Number(value)] ?? '';
  if (type === 'e') return '';
  if (type !== 'n' || !dated[style]) return value;
  const days = Number(value);
  // A time of day alone is a clock; the others are dates, whose count skips a day that never was (29 Feb 1900).
  if (days >= 0 && days < 1) return new Date(Math.round(days * DAY_MS)).toISOString().slice(11, 23);
  const begin = since1904 ? Date.UTC(1904, 0, 1) : Date.UTC(1899, 11, days < 60 ? 31 : 30);
  const ms = begin + Math.round(days * DAY_MS);
  return Math.abs(ms) < 8.64e15 ? new Date(ms).toISOString() : '';
}
