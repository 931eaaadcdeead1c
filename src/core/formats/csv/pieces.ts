import { textReader } from '../../text/utf';
import type { Source } from '../format';
import { ByteRows, numberReader, TextRows, type NumberReader, type Rows } from './rows';

/** Bytes that are read at a time: bounds the memory of reading text of any length. */
const PIECE = 1 << 20;

/** A stretch of whole lines of a file. */
export interface Piece {
  /** Place in the file. */
  at: number;
  length: number;
}

/** How the cells of a table are parted and its numbers written. */
export interface CellWriting {
  separator: string;
  decimal: '.' | ',';
  number: NumberReader;
}
export const cellWriting = (separator: string, decimal: '.' | ','): CellWriting => ({
  separator,
  decimal,
  number: numberReader(decimal),
});
const QUOTE = 34;

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

  /** All pieces in their order. A quoted cell may go over lines, not over pieces' ends: pieces are cut where none is open. */
  *all(): Generator<Piece> {
    for (let at = this.begin; at < this.source.length;) {
      const length = this.next(at);
      yield { at, length };
      at += length;
    }
  }
  text = ({ at, length }: Piece): string => this.decode(this.source.read(at, length));
  /** The rows of numbers of a piece, read the fastest way that it allows. */
  rows({ at, length }: Piece, { separator, decimal, number }: CellWriting): Rows {
    const bytes = this.source.read(at, length);
    return this.unit === 1 && !bytes.includes(QUOTE)
      ? new ByteRows(bytes, separator, decimal, this.decode, number)
      : new TextRows(this.decode(bytes), separator, number);
  }

  private next(at: number): number {
    for (let size = PIECE; ; size *= 2) {
      const bytes = this.source.read(at, size);
      const whole = at + bytes.length >= this.source.length;
      for (
        let end = whole ? bytes.length : lastLine(bytes, this.unit, bytes.length);
        end > 0;
        end = lastLine(bytes, this.unit, end - this.unit)
      ) {
        if (whole || closed(bytes.subarray(0, end))) return end;
      }
      if (size > 64 * PIECE) return bytes.length;
    }
  }
}

/** Just after the last end of a line before a place. */
function lastLine(bytes: Uint8Array, unit: 1 | 2, before: number): number {
  for (let i = before - unit; i >= 0; i -= unit)
    if (unit === 1 ? bytes[i] === 10 : (bytes[i] === 10 && bytes[i + 1] === 0) || (bytes[i] === 0 && bytes[i + 1] === 10)) return i + unit; // prettier-ignore
  return 0;
}
/** Whether no quoted cell goes on behind the bytes: of two-byte characters the mark has a zero beside it. */
function closed(bytes: Uint8Array): boolean {
  let quotes = 0;
  for (let i = bytes.indexOf(QUOTE); i >= 0; i = bytes.indexOf(QUOTE, i + 1)) quotes++;
  return quotes % 2 === 0;
}
