import Papa from 'papaparse';

/** Goes through the rows of a stretch of text that have something in them. */
export interface Rows {
  /** To the next row. @returns false behind the last one */
  next(): boolean;
  /** A cell of this row, as it is written; '' where there is none. */
  text(column: number): string;
  /** The same as a number; NaN where it is none. */
  value(column: number): number;
  /** All cells of this row as numbers, NaN for what is none or is not there. */
  values(into: Float64Array): void;
}

const PLAIN = /^[-+−]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i;

/** What a cell says as a number; NaN where it is none. */
export type NumberReader = (cell: string) => number;
export const numberReader = (decimal: '.' | ','): NumberReader => {
  return (cell) => {
    const text = (decimal === ',' ? cell.trim().replace(',', '.') : cell.trim()).replace('−', '-');
    return PLAIN.test(text) ? Number(text) : NaN;
  };
};

/** Cells of any text: quoted ones, any code page. */
export class TextRows implements Rows {
  /** The cells of this row. */
  cells: string[] = [];
  private readonly rows: Iterator<string[]>;
  constructor(
    text: string,
    separator: string,
    private readonly number: NumberReader,
  ) {
    this.rows = rowsOf(text, separator);
  }
  next(): boolean {
    const { value, done } = this.rows.next();
    if (done) return false;
    this.cells = value;
    return true;
  }
  text = (column: number): string => this.cells[column] ?? '';
  value = (column: number): number => this.number(this.text(column));
  values(into: Float64Array): void {
    for (let k = 0; k < into.length; k++) into[k] = this.number(this.cells[k] ?? '');
  }
}

function* rowsOf(text: string, separator: string): Generator<string[]> {
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

const [NEW_LINE, RETURN, SPACE, TAB, MINUS, PLUS, ZERO] = [10, 13, 32, 9, 45, 43, 48];
/** Powers of ten that are exact in binary64. */
const TENS = Float64Array.from({ length: 23 }, (_, k) => Number(`1e${k}`));
/** Digits of which every number is exact. */
const EXACT_DIGITS = 15;

/** Cells read from the bytes themselves, where a byte is a character and nothing is quoted: no text is made of what is a number.
 *  Up to 15 digits over a power of ten up to 10²² the quotient is the nearest number (Clinger, How to read floating point numbers accurately, 1990);
 *  all else is read as text. */
export class ByteRows implements Rows {
  private at = 0;
  private begin = 0;
  private end = 0;
  private place = 0;
  private readonly separator: number;
  private readonly decimal: number;
  constructor(
    private readonly bytes: Uint8Array,
    separator: string,
    decimal: '.' | ',',
    private readonly decode: (bytes: Uint8Array) => string,
    private readonly number: NumberReader,
  ) {
    this.separator = separator.charCodeAt(0);
    this.decimal = decimal.charCodeAt(0);
  }

  next(): boolean {
    const { bytes } = this;
    while (this.at < bytes.length) {
      const found = bytes.indexOf(NEW_LINE, this.at);
      this.begin = this.at;
      this.end = found < 0 ? bytes.length : found;
      this.at = this.end + 1;
      if (this.end > this.begin && bytes[this.end - 1] === RETURN) this.end--;
      for (let i = this.begin; i < this.end; i++) {
        const byte = bytes[i];
        if (byte !== SPACE && byte !== TAB && byte !== this.separator) return true;
      }
    }
    return false;
  }
  text(column: number): string {
    const from = this.placeOf(column);
    return from > this.end ? '' : this.decode(this.bytes.subarray(from, this.cellEnd(from)));
  }
  value(column: number): number {
    this.place = this.placeOf(column);
    return this.place > this.end ? NaN : this.read();
  }
  values(into: Float64Array): void {
    this.place = this.begin;
    for (let k = 0; k < into.length; k++) into[k] = this.place > this.end ? NaN : this.read();
  }

  /** Where a cell of this row begins; behind its end where there is none. */
  private placeOf(column: number): number {
    let at = this.begin;
    for (let k = 0; k < column && at <= this.end; k++) at = this.cellEnd(at) + 1;
    return at;
  }
  private cellEnd(from: number): number {
    const { bytes, separator, end } = this;
    let at = from;
    while (at < end && bytes[at] !== separator) at++;
    return at;
  }
  /** Reads the cell at the place, and goes on behind its separator. */
  private read(): number {
    const { bytes, decimal, separator, end } = this;
    const first = this.place;
    let at = first;
    while (at < end && (bytes[at] === SPACE || bytes[at] === TAB) && bytes[at] !== separator) at++;
    const negative = at < end && bytes[at] === MINUS;
    if (negative || (at < end && bytes[at] === PLUS)) at++;
    const digits = at;
    let mantissa = 0;
    let point = 0;
    for (; at < end; at++) {
      const digit = bytes[at] - ZERO;
      if (digit >= 0 && digit <= 9) mantissa = mantissa * 10 + digit;
      else if (bytes[at] === decimal && point === 0 && decimal !== separator) point = at + 1;
      else break;
    }
    const count = at - digits - (point ? 1 : 0);
    if (count > 0 && count <= EXACT_DIGITS && (at === end || bytes[at] === separator)) {
      this.place = at + 1;
      const value = point ? mantissa / TENS[at - point] : mantissa;
      return negative ? -value : value;
    }
    const last = this.cellEnd(at);
    this.place = last + 1;
    return last === first ? NaN : this.number(this.decode(bytes.subarray(first, last)));
  }
}
