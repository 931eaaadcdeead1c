/** How some words are set. */
export interface Face {
  size: number;
  bold?: boolean;
  mono?: boolean;
  colour?: string;
  /** Above or below the line. */
  raised?: 'above' | 'below';
}
export interface Piece {
  text: string;
  face: Face;
}
/** Width of a text in a face, points. */
export type Measure = (text: string, face: Face) => number;

/** A line of set words: each piece at its place. */
export interface SetLine {
  pieces: { text: string; face: Face; x: number; width: number }[];
  width: number;
  /** Of its largest words, points. */
  size: number;
}

/** Share of its size by which raised words are set smaller. */
export const RAISED = 0.68;
export const sizeOf = ({ size, raised }: Face): number => (raised ? size * RAISED : size);

interface Word {
  pieces: { text: string; face: Face; width: number }[];
  width: number;
}

/** Breaks words into lines that are no wider than there is room; what is longer than a line by itself is broken within. A line end in the text
 *  ends the line. @param width points @returns at least one line */
export function setLines(pieces: readonly Piece[], width: number, measure: Measure): SetLine[] {
  const lines: SetLine[] = [];
  let line: SetLine = { pieces: [], width: 0, size: 0 };
  let space = 0;
  const end = (size: number) => {
    lines.push({ ...line, size: line.size || size });
    line = { pieces: [], width: 0, size: 0 };
    space = 0;
  };
  const put = ({ pieces: some }: Word) => {
    let x = line.pieces.length ? line.width + space : 0;
    for (const { text, face, width: own } of some) {
      const last = line.pieces.at(-1);
      // Words of one face are one piece, with the space between.
      if (last && last.face === face && Math.abs(last.x + last.width + space - x) < 1e-6 && text) {
        last.text += (space ? ' ' : '') + text;
        last.width = x + own - last.x;
      } else line.pieces.push({ text, face, x, width: own });
      line.size = Math.max(line.size, face.size);
      x += own;
      space = 0;
    }
    line.width = x;
  };
  const add = (word: Word) => {
    if (line.pieces.length && line.width + space + word.width > width) end(word.pieces[0].face.size);
    if (word.width > width)
      for (const part of brokenUp(word, width, measure)) {
        if (line.pieces.length && line.width + space + part.width > width) end(part.pieces[0].face.size);
        put(part);
      } // prettier-ignore
    else put(word);
  };

  let word: Word = { pieces: [], width: 0 };
  const finish = () => {
    if (word.pieces.length) add(word);
    word = { pieces: [], width: 0 };
  };
  for (const { text, face } of pieces)
    for (const part of text.split(/( |\n)/)) {
      if (part === '') continue;
      if (part === ' ') {
        finish();
        space = line.pieces.length ? measure(' ', face) : 0;
      } else if (part === '\n') {
        finish();
        end(face.size);
      } else {
        const own = measure(part, face);
        word.pieces.push({ text: part, face, width: own });
        word.width += own;
      }
    }
  finish();
  if (line.pieces.length || lines.length === 0) end(pieces[0]?.face.size ?? 0);
  return lines;
}

/** A word in parts that fit, letter by letter. */
function brokenUp(word: Word, width: number, measure: Measure): Word[] {
  const parts: Word[] = [];
  for (const { text, face } of word.pieces) {
    let from = 0;
    const letters = [...text];
    while (from < letters.length) {
      let to = from + 1;
      while (to < letters.length && measure(letters.slice(from, to + 1).join(''), face) <= width) to++;
      const part = letters.slice(from, to).join('');
      parts.push({ pieces: [{ text: part, face, width: measure(part, face) }], width: measure(part, face) });
      from = to;
    }
  }
  return parts;
}

/** A text that is cut to a width, with a sign that it goes on. */
export function cutTo(text: string, face: Face, width: number, measure: Measure): string {
  if (measure(text, face) <= width) return text;
  const letters = [...text];
  let [low, high] = [0, letters.length];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (measure(`${letters.slice(0, middle).join('').trimEnd()}…`, face) <= width) low = middle;
    else high = middle - 1;
  }
  return low === 0 ? '' : `${letters.slice(0, low).join('').trimEnd()}…`;
}
