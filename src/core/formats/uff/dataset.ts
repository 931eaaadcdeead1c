import { damaged } from '../../errors';
import type { Source } from '../format';
import { SourceLines } from './lines';

/** Every so many lines of numbers their place is remembered. */
const EVERY = 64;
/** Numbers as they are written, also those that stand without a blank between. */
const NUMBER = /[+-]?(?:\d+\.?\d*|\.\d+)(?:[EeDd][+-]?\d+)?/g;

/** A function of a universal file: dataset 58 (ASCII) or 58b (binary), its head read, its numbers left where they are. */
export interface Dataset {
  /** Lines of description, as they stand. */
  ids: string[];
  /** 1 for a response over time; others by the format’s list. */
  functionType: number;
  response: { node: number; direction: number };
  /** Numbers a value: 1 real, 2 complex. */
  width: 1 | 2;
  double: boolean;
  values: number;
  even: boolean;
  from: number;
  step: number;
  /** What stands along the axis: 17 is time, 18 frequency; and what is measured. */
  abscissa: number;
  ordinate: { label: string; unit: string };
  /** Reads numbers [first, first + count) of the values’ `width` each. */
  numbers(first: number, count: number): Float64Array;
}

const whole = (line: string, from: number, to: number) =>
  Math.trunc(Number(line.slice(from, to).trim() || '0'));
const real = (line: string, from: number, to: number) => Number(line.slice(from, to).trim().replace(/[Dd]/, 'E') || '0'); // prettier-ignore
const axis = (line: string) => ({
  type: whole(line, 0, 10),
  label: said(line.slice(26, 46)),
  unit: said(line.slice(47, 67)),
});
/** What is not said stands as NONE. */
const said = (text: string) => (/^none$/i.test(text.trim()) ? '' : text.trim());

/** All functions of a file; other datasets are passed over. @throws `damaged` naming the byte */
export function datasetsOf(source: Source): Dataset[] {
  const lines = new SourceLines(source);
  const found: Dataset[] = [];
  for (;;) {
    const line = lines.next();
    if (!line) return found;
    if (line.text.trim() !== '-1') continue;
    const head = lines.next();
    if (!head) return found;
    if (/^\s*58\s*$/.test(head.text.slice(0, 6)) || /^\s*58b/i.test(head.text)) {
      found.push(datasetOf(source, lines, head.text));
    }
    // To the end of the dataset, whatever it is.
    for (let next = lines.next(); next && next.text.trim() !== '-1';) next = lines.next();
  }
}

function datasetOf(source: Source, lines: SourceLines, head: string): Dataset {
  const wrong = (why: string) => damaged(source.name, `${why} (dataset that begins before byte ${lines.at})`, 'Export it anew as a universal file.'); // prettier-ignore
  const binary = /58b/i.test(head);
  const rows = Array.from({ length: 11 }, () => {
    const line = lines.next();
    if (!line) throw wrong('Its head is cut short.');
    return line.text;
  });
  const type = whole(rows[6], 0, 10);
  if (![2, 4, 5, 6].includes(type)) throw wrong(`Its numbers are of a type (${type}) that is not read.`);
  const values = whole(rows[6], 10, 20);
  if (!(values >= 0 && values <= source.length)) throw wrong('It says a number of values that is none.');
  const even = whole(rows[6], 20, 30) === 1;
  const width = type >= 5 ? 2 : 1;
  const double = type === 4 || type === 6;
  const each = width + (even ? 0 : 1);
  const numerator = axis(rows[8]);
  const dataset = {
    ids: rows.slice(0, 5).map((r) => said(r)),
    functionType: whole(rows[5], 0, 5),
    response: { node: whole(rows[5], 41, 51), direction: whole(rows[5], 51, 55) },
    width,
    double,
    values,
    even,
    from: real(rows[6], 30, 43),
    step: real(rows[6], 43, 56),
    abscissa: axis(rows[7]).type,
    ordinate: { label: numerator.label, unit: numerator.unit },
  } as const;
  const all = values * each;
  if (!binary) return { ...dataset, numbers: inText(source, lines, all, wrong) };
  const order = whole(head, 7, 13);
  const format = whole(head, 13, 19);
  if (format !== 2) throw wrong('Its binary numbers are not those of IEEE 754.');
  const bytes = all * (double ? 8 : 4);
  const at = lines.at;
  if (at + bytes > source.length) throw wrong('It ends in the middle of its numbers.');
  lines.at = at + bytes;
  return { ...dataset, numbers: inBytes(source, at, double, order === 1) };
}

function inBytes(source: Source, at: number, double: boolean, little: boolean): Dataset['numbers'] {
  const size = double ? 8 : 4;
  return (first, count) => {
    const piece = source.read(at + first * size, count * size);
    const view = new DataView(piece.buffer, piece.byteOffset, piece.byteLength);
    return Float64Array.from({ length: Math.floor(piece.byteLength / size) }, (_, i) => double ? view.getFloat64(i * 8, little) : view.getFloat32(i * 4, little)); // prettier-ignore
  };
}

/** Numbers that are written as text: the file is looked through once for where they stand. */
function inText(
  source: Source,
  lines: SourceLines,
  all: number,
  wrong: (why: string) => Error,
): Dataset['numbers'] {
  const places: { number: number; at: number }[] = [];
  let seen = 0;
  for (let row = 0; seen < all; row++) {
    const line = lines.next();
    if (!line || line.text.trim() === '-1')
      throw wrong(`It holds ${seen} of the ${all} numbers that it says.`);
    if (row % EVERY === 0) places.push({ number: seen, at: line.at });
    seen += line.text.match(NUMBER)?.length ?? 0;
  }
  return (first, count) => {
    const out = new Float64Array(Math.max(0, Math.min(count, all - first)));
    let place = places[0];
    for (const p of places) if (p.number <= first) place = p;
    const own = new SourceLines(source);
    own.at = place?.at ?? 0;
    let number = place?.number ?? 0;
    for (let filled = 0; filled < out.length;) {
      const line = own.next();
      if (!line) break;
      for (const text of line.text.match(NUMBER) ?? []) {
        if (number >= first && filled < out.length) out[filled++] = Number(text.replace(/[Dd]/, 'E'));
        number++;
      }
    }
    return out;
  };
}
