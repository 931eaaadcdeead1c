import { damaged } from '../../errors';
import type { Source } from '../format';

/** Bytes that are looked through at a time. */
const PIECE = 1 << 16;
/** No line of a file of this kind is so long; one that is has no lines. */
const LONGEST = 1 << 14;
const NEWLINE = 10;
const RETURN = 13;

/** The lines of a file one after the other, each with the place of its first byte. */
export class SourceLines {
  private piece = new Uint8Array(0);
  private pieceAt = 0;
  at = 0;

  constructor(private readonly source: Source) {}

  /** The next line without its end; null at the end of the file. @throws `damaged` for a line that is far too long */
  next(): { text: string; at: number } | null {
    const { source } = this;
    const begin = this.at;
    if (begin >= source.length) return null;
    let text = '';
    for (let at = begin; ;) {
      if (at < this.pieceAt || at >= this.pieceAt + this.piece.length) {
        this.piece = source.read(at, PIECE).slice();
        this.pieceAt = at;
        if (this.piece.length === 0) {
          this.at = at;
          return { text, at: begin };
        }
      }
      const from = at - this.pieceAt;
      const end = this.piece.indexOf(NEWLINE, from);
      const to = end < 0 ? this.piece.length : end;
      for (let i = from; i < to; i++)
        if (this.piece[i] !== RETURN) text += String.fromCharCode(this.piece[i]);
      if (text.length > LONGEST)
        throw damaged(source.name, `A line from byte ${begin} on never ends.`, 'Export it anew as a universal file.'); // prettier-ignore
      at = this.pieceAt + to;
      if (end >= 0) {
        this.at = at + 1;
        return { text, at: begin };
      }
    }
  }
}
