import Papa from 'papaparse';
import { textReader } from '../../text/utf';
import type { Source } from '../format';

/** Bytes that are read at a time: bounds the memory of reading text of any length. */
const PIECE = 1 << 20;

/** A stretch of whole lines of a file. */
export interface Piece {
  /** Place in the file. */
  at: number;
  length: number;
}

/** Lines of a text file, a piece at a time, whatever its encoding. */
export class Pieces {
  private readonly decode: (bytes: Uint8Array) => string;
  /** Bytes of a code unit, and the one that ends a line. */
  private readonly unit: 1 | 2;
  private readonly begin: number;

  constructor(private readonly source: Source) {
    const { decode, unit, mark } = textReader(source.read(0, Math.min(source.length, PIECE)));
    this.decode = decode;
    this.unit = unit;
    this.begin = mark;
  }

  /** All pieces in their order, each with its text. A quoted cell may go over lines, not over pieces' ends: pieces are cut where none is open. */
  *all(): Generator<Piece & { text: string }> {
    for (let at = this.begin; at < this.source.length;) {
      const { length, text } = this.next(at);
      yield { at, length, text };
      at += length;
    }
  }
  text = ({ at, length }: Piece): string => this.decode(this.source.read(at, length));

  private next(at: number): { length: number; text: string } {
    for (let size = PIECE; ; size *= 2) {
      const bytes = this.source.read(at, size);
      const whole = at + bytes.length >= this.source.length;
      for (
        let end = whole ? bytes.length : lastLine(bytes, this.unit, bytes.length);
        end > 0;
        end = lastLine(bytes, this.unit, end - this.unit)
      ) {
        // prettier-ignore
        const text = this.decode(bytes.subarray(0, end));
        if (whole || closed(text)) return { length: end, text };
      }
      if (size > 64 * PIECE) return { length: bytes.length, text: this.decode(bytes) };
    }
  }
}

/** Just after the last end of a line before a place. */
function lastLine(bytes: Uint8Array, unit: 1 | 2, before: number): number {
  for (let i = before - unit; i >= 0; i -= unit)
    if (unit === 1 ? bytes[i] === 10 : (bytes[i] === 10 && bytes[i + 1] === 0) || (bytes[i] === 0 && bytes[i + 1] === 10)) return i + unit; // prettier-ignore
  return 0;
}
/** Whether no quoted cell goes on behind the text. */
function closed(text: string): boolean {
  if (!text.includes('"')) return true;
  let quotes = 0;
  for (let i = text.indexOf('"'); i >= 0; i = text.indexOf('"', i + 1)) quotes++;
  return quotes % 2 === 0;
}

/** Rows of a text that have something in them, cell by cell. */
export function* rowsOf(text: string, separator: string): Generator<string[]> {
  if (text.includes('"')) {
    yield* Papa.parse<string[]>(text, { delimiter: separator, skipEmptyLines: 'greedy' }).data;
    return;
  }
  for (let at = 0; at < text.length;) {
    const found = text.indexOf('\n', at);
    const end = found < 0 ? text.length : found;
    const line = text.slice(at, end > at && text.charCodeAt(end - 1) === 13 ? end - 1 : end);
    at = end + 1;
    const cells = line.split(separator);
    if (cells.some((cell) => cell.trim() !== '')) yield cells;
  }
}
