import { damaged, type FarrierError } from '../errors';

/** Words of a text file with their line, for parsers of databases: numbers, names, strings in quotation marks, single signs. */
export interface Word {
  text: string;
  kind: 'word' | 'number' | 'string' | 'sign';
  line: number;
}

const MAX_BYTES = 8_000_000;
/** What is opened and never closed is taken to the end at once: looking on for its end from every place would be quadratic. */
const PATTERN =
  /\/\/[^\n]*|\/\*[\s\S]*?(?:\*\/|$)|"((?:[^"\\]|\\[\s\S])*)(?:"|\\?$)|([+-]?(?:0[xX][0-9a-fA-F]+|\d+\.?\d*(?:[eE][+-]?\d+)?|\.\d+))|([A-Za-z_]\w*)|(\S)/g;

/** Splits a text into words; comments are left out. The cost grows with the length of the text, whatever is in it.
 *  @param file its name, for errors @throws `damaged` when it is larger than 8 MB, or a comment or text in it is not closed */
export function words(text: string, file: string): Word[] {
  if (text.length > MAX_BYTES)
    throw damaged(
      file,
      `It has ${Math.round(text.length / 1e6)} MB, more than the 8 MB that are read.`,
      'Take out what is not needed.',
    );
  const found: Word[] = [];
  let line = 1;
  let counted = 0;
  for (const match of text.matchAll(PATTERN)) {
    for (let i = counted; i < match.index; i++) if (text.charCodeAt(i) === 10) line++;
    counted = match.index;
    const [all, string, number, word, sign] = match;
    const open =
      (all.startsWith('/*') && !(all.length > 3 && all.endsWith('*/'))) ||
      (string !== undefined && (all.length < 2 || !all.endsWith('"') || all.length !== string.length + 2));
    if (open)
      throw damaged(
        `${file}, line ${line}`,
        `A ${all.startsWith('/*') ? 'comment' : 'text in quotation marks'} begins here and is not closed.`,
        'Close it, or export the file anew.',
      );
    if (string !== undefined) found.push({ text: string, kind: 'string', line });
    else if (number !== undefined) found.push({ text: number, kind: 'number', line });
    else if (word !== undefined) found.push({ text: word, kind: 'word', line });
    else if (sign !== undefined) found.push({ text: all, kind: 'sign', line });
  }
  return found;
}

/** Reads words one after the other and says where it went wrong. */
export class Cursor {
  at = 0;
  constructor(
    private readonly list: Word[],
    private readonly file: string,
  ) {}

  get done(): boolean {
    return this.at >= this.list.length;
  }
  peek(ahead = 0): Word | undefined {
    return this.list[this.at + ahead];
  }
  fault(what: string): FarrierError {
    const word = this.list[Math.min(this.at, this.list.length - 1)];
    return damaged(
      `${this.file}, line ${word?.line ?? 1}`,
      this.done ? `${what}, but the file ends.` : `${what}, not “${word.text.slice(0, 30)}”.`,
      'Correct this line or export the file anew.',
    );
  }
  next(): Word {
    if (this.done) throw this.fault('More was expected');
    return this.list[this.at++];
  }
  /** Takes a word with just this text. @returns whether it was there */
  take(text: string): boolean {
    const word = this.peek();
    if (word?.text !== text || word.kind === 'string') return false;
    this.at++;
    return true;
  }
  expect(text: string): void {
    if (!this.take(text)) throw this.fault(`“${text}” was expected`);
  }
  name(what: string): string {
    const word = this.peek();
    if (word?.kind !== 'word') throw this.fault(`${what} was expected`);
    this.at++;
    return word.text;
  }
  string(what: string): string {
    const word = this.peek();
    if (word?.kind !== 'string') throw this.fault(`${what} in quotation marks was expected`);
    this.at++;
    return word.text;
  }
  number(what: string): number {
    const word = this.peek();
    const value = word?.kind === 'number' ? Number(word.text) : NaN;
    if (!Number.isFinite(value)) throw this.fault(`${what}, a number, was expected`);
    this.at++;
    return value;
  }
  whole(what: string, least: number, most: number): number {
    const value = this.number(what);
    if (Number.isInteger(value) && value >= least && value <= most) return value;
    this.at--;
    throw this.fault(`${what} from ${least} to ${most} was expected`);
  }
}
