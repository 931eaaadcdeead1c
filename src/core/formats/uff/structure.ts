import { damaged } from '../../errors';
import type { Shape } from '../../modal/shape';
import type { Vec, Wireframe } from '../../wireframe/wireframe';
import { placesOf } from '../../wireframe/wireframe';
import type { Motion } from '../../wireframe/motion';
import type { Source } from '../format';
import { SourceLines } from './lines';

/** What universal files say of a structure: nodes (datasets 15 and 2411), trace lines (82), units (164); and shapes at its nodes (55). */
export interface StructureFile {
  points: { name: string; at: Vec }[];
  lines: [string, string][];
  shapes: NodeShape[];
}
/** A shape at nodes, three numbers each. */
export interface NodeShape {
  hz: number;
  damping: number;
  nodes: string[];
  /** Shape [nodes·3]. */
  shape: Shape;
}

const NUMBER = /[+-]?(?:\d+\.?\d*|\.\d+)(?:[EeDd][+-]?\d+)?/g;
const numbersOf = (line: string): number[] => (line.match(NUMBER) ?? []).map((t) => Number(t.replace(/[Dd]/, 'E'))); // prettier-ignore
/** Whole numbers in columns of ten, which may touch. */
const columns = (line: string, width = 10): number[] => {
  const out: number[] = [];
  for (let at = 0; at < line.length; at += width) {
    const part = line.slice(at, at + width).trim();
    if (part !== '') out.push(Number(part));
  }
  return out;
};

/** Reads nodes, trace lines and shapes; other datasets are passed over. Lengths are brought to m where the file says its units.
 *  @throws `damaged` naming the dataset and the byte, `bad_input` never: a file with none of it is empty */
export function readStructure(source: Source): StructureFile {
  const lines = new SourceLines(source);
  const found: StructureFile = { points: [], lines: [], shapes: [] };
  let length = 1;
  for (;;) {
    const line = lines.next();
    if (!line) break;
    if (line.text.trim() !== '-1') continue;
    const head = lines.next();
    if (!head) break;
    const kind = head.text.trim();
    const rows: string[] = [];
    let ended = false;
    for (let next = lines.next(); next; next = lines.next()) {
      if (next.text.trim() === '-1') {
        ended = true;
        break;
      }
      rows.push(next.text);
    }
    const wrong = (why: string) => damaged(source.name, `${why} (dataset ${kind} from byte ${line.at} on)`, 'Export it anew as a universal file.'); // prettier-ignore
    if (!ended && ['15', '2411', '82', '55'].includes(kind)) throw wrong('It ends in the middle');
    if (kind === '15') readNodes15(rows, found, wrong);
    else if (kind === '2411') readNodes2411(rows, found, wrong);
    else if (kind === '82') readTrace(rows, found, wrong);
    else if (kind === '55') readShape(rows, found, wrong);
    else if (kind === '164') length = numbersOf(rows[1] ?? '')[0] || 1;
  }
  const known = new Set(found.points.map((p) => p.name));
  const lost = found.lines.flat().find((n) => !known.has(n));
  if (lost !== undefined && found.points.length)
    throw damaged(source.name, `A trace line goes to node ${lost}, which is not there.`, 'Export nodes and lines together.'); // prettier-ignore
  if (length !== 1) found.points = found.points.map(({ name, at }) => ({ name, at: at.map((v) => v / length) as unknown as Vec })); // prettier-ignore
  return found;
}

type Wrong = (why: string) => Error;
function keep(found: StructureFile, label: number, at: number[], wrong: Wrong): void {
  if (!Number.isInteger(label) || at.length < 3 || !at.slice(0, 3).every(Number.isFinite))
    throw wrong('A node has no number or no place');
  found.points.push({ name: String(label), at: [at[0], at[1], at[2]] });
}
function readNodes15(rows: string[], found: StructureFile, wrong: Wrong): void {
  for (const row of rows) keep(found, columns(row.slice(0, 10))[0], numbersOf(row.slice(40)), wrong);
}
function readNodes2411(rows: string[], found: StructureFile, wrong: Wrong): void {
  for (let k = 0; k < rows.length; k += 2)
    keep(found, columns(rows[k].slice(0, 10))[0], numbersOf(rows[k + 1] ?? ''), wrong);
}
function readTrace(rows: string[], found: StructureFile, wrong: Wrong): void {
  const nodes = rows.slice(2).flatMap((row) => columns(row));
  const said = columns(rows[0] ?? '')[1];
  if (!nodes.every(Number.isInteger) || (Number.isInteger(said) && nodes.length < said))
    throw wrong('It has fewer nodes than it says, or what is none');
  for (let k = 1; k < nodes.length; k++)
    if (nodes[k] > 0 && nodes[k - 1] > 0 && nodes[k] !== nodes[k - 1])
      found.lines.push([String(nodes[k - 1]), String(nodes[k])]);
}
function readShape(rows: string[], found: StructureFile, wrong: Wrong): void {
  const [, analysis, , , type, each] = columns(rows[5] ?? '');
  const real = numbersOf(rows[7] ?? '');
  if (![2, 3].includes(analysis) || ![2, 5].includes(type) || !(each >= 3))
    throw wrong('It is no mode with three numbers at each node');
  const [hz, damping] =
    analysis === 2
      ? [real[0], real[2] ?? 0]
      : [Math.hypot(real[0], real[1]) / (2 * Math.PI), -real[0] / Math.hypot(real[0], real[1])];
  const nodes: string[] = [];
  const [re, im]: number[][] = [[], []];
  const width = each * (type === 5 ? 2 : 1);
  for (let k = 8; k < rows.length;) {
    nodes.push(String(columns(rows[k++].slice(0, 10))[0]));
    const numbers: number[] = [];
    while (numbers.length < width) {
      if (k >= rows.length) throw wrong(`Node ${nodes.at(-1)} has no values`);
      numbers.push(...numbersOf(rows[k++]));
    }
    for (let i = 0; i < 3; i++) {
      re.push(type === 5 ? numbers[2 * i] : numbers[i]);
      im.push(type === 5 ? numbers[2 * i + 1] : 0);
    }
  }
  found.shapes.push({
    hz,
    damping,
    nodes,
    shape: { re: Float64Array.from(re), im: Float64Array.from(im) },
  });
}

const whole = (value: number, width = 10) => String(Math.round(value)).padStart(width);
/** A number in so many letters, with D or E before its exponent. */
function scientific(value: number, width: number, digits: number, letter = 'E'): string {
  const [mantissa, exponent] = (Object.is(value, -0) ? 0 : value).toExponential(digits).split('e');
  return `${mantissa}${letter}${exponent[0]}${exponent.slice(1).padStart(2, '0')}`.padStart(width);
}
const ascii = (text: string) =>
  text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[–—]/g, '-')
    .replace(/[^\x20-\x7e]/g, '?')
    .slice(0, 80) || 'NONE';
const dataset = (kind: string, rows: string[]): string => ['    -1', kind.padStart(6), ...rows, '    -1', ''].join('\n'); // prettier-ignore

/** Numbers that stand for the names of points: the names themselves where all are whole numbers, else 1, 2, 3 in their order. */
export function nodeNumbers(points: readonly { name: string }[]): Map<string, number> {
  const plain = points.every((p) => /^[1-9]\d{0,8}$/.test(p.name));
  return new Map(points.map((p, k) => [p.name, plain ? Number(p.name) : k + 1]));
}

/** A wireframe as nodes (2411) and trace lines (82), in m. Names that are no numbers, parts, surfaces and sensors are not carried. */
export function writeStructure(frame: Wireframe): string {
  const numbers = nodeNumbers(frame.points);
  const places = placesOf(frame);
  const nodes = frame.points.flatMap(({ name }) => [
    `${whole(numbers.get(name)!)}${whole(1)}${whole(1)}${whole(11)}`,
    places.get(name)!.map((v) => scientific(v, 25, 16, 'D')).join(''), // prettier-ignore
  ]);
  // Lines that follow each other are one stroke of the pen.
  const strokes: number[] = [];
  for (const [a, b] of frame.lines) {
    const [p, q] = [numbers.get(a), numbers.get(b)];
    if (p === undefined || q === undefined) continue;
    if (strokes.at(-1) === p) strokes.push(q);
    else strokes.push(...(strokes.length ? [0] : []), p, q);
  }
  const rows: string[] = [];
  for (let k = 0; k < strokes.length; k += 8) rows.push(strokes.slice(k, k + 8).map((n) => whole(n)).join('')); // prettier-ignore
  return (
    dataset('164', [
      `${whole(1)}${'SI: m (newton)'.padEnd(20)}${whole(2)}`,
      [1, 1, 1].map((v) => scientific(v, 25, 17, 'D')).join(''),
      scientific(273.15, 25, 17, 'D'),
    ]) +
    dataset('2411', nodes) +
    (strokes.length
      ? dataset('82', [`${whole(1)}${whole(strokes.length)}${whole(0)}`, ascii(frame.name), ...rows])
      : '')
  );
}

/** A mode as a complex shape at the nodes that move (dataset 55, complex eigenvector of acceleration). */
export function writeShape(
  frame: Wireframe,
  motion: Motion,
  { hz, damping, name, number }: { hz: number; damping: number; name: string; number: number },
): string {
  const numbers = nodeNumbers(frame.points);
  const w = 2 * Math.PI * hz;
  const [re, im] = [-damping * w, w * Math.sqrt(Math.max(0, 1 - damping * damping))];
  const nodes = frame.points.flatMap((p, i) =>
    motion.known[i]
      ? [
          whole(numbers.get(p.name)!),
          [0, 1, 2].map((k) => scientific(motion.re[3 * i + k], 13, 5) + scientific(motion.im[3 * i + k], 13, 5)).join(''), // prettier-ignore
        ]
      : [],
  );
  return dataset('55', [
    ascii(name || `Mode ${number}`),
    ascii(frame.name),
    'NONE',
    ascii(`${hz.toPrecision(7)} Hz, damping ${(100 * damping).toPrecision(4)} %`),
    'NONE',
    [1, 3, 2, 12, 5, 3].map((n) => whole(n)).join(''),
    [2, 6, 1, number].map((n) => whole(n)).join(''),
    [re, im, 0, 0, 0, 0].map((v) => scientific(v, 13, 5)).join(''),
    ...nodes,
  ]);
}

/** A function at nodes for `writeFunction`. */
export interface NodeFunction {
  /** 3 cross spectrum, 4 frequency response, 8 correlation. */
  kind: 3 | 4 | 8;
  name: string;
  response: { node: number; direction: number };
  reference: { node: number; direction: number };
  /** First abscissa, and the step: Hz, or s of correlations. */
  from: number;
  step: number;
  unit: string;
  re: ArrayLike<number>;
  /** None: real. */
  im?: ArrayLike<number>;
}

/** A function at an even step (dataset 58, double precision as text). */
export function writeFunction(f: NodeFunction): string {
  const n = f.re.length;
  const place = ({ node, direction }: NodeFunction['response']) => ` ${'NONE'.padEnd(10)}${whole(node)}${whole(direction, 4)}`; // prettier-ignore
  const axis = (kind: number, label: string, unit: string) => `${whole(kind)}${whole(0, 5).repeat(3)} ${ascii(label).slice(0, 20).padEnd(20)} ${ascii(unit).slice(0, 20).padEnd(20)}`; // prettier-ignore
  const rows: string[] = [];
  for (let k = 0; k < n; k += f.im ? 2 : 4) {
    let row = '';
    for (let i = k; i < Math.min(n, k + (f.im ? 2 : 4)); i++)
      row += scientific(f.re[i], 20, 12) + (f.im ? scientific(f.im[i], 20, 12) : '');
    rows.push(row);
  }
  return dataset('58', [
    ascii(f.name),
    'NONE',
    'NONE',
    'NONE',
    'NONE',
    `${whole(f.kind, 5)}${whole(0)}${whole(1, 5)}${whole(0)}${place(f.response)}${place(f.reference)}`,
    `${whole(f.im ? 6 : 4)}${whole(n)}${whole(1)}${scientific(f.from, 13, 5)}${scientific(f.step, 13, 5)}${scientific(0, 13, 5)}`,
    f.kind === 8 ? axis(17, 'Time', 's') : axis(18, 'Frequency', 'Hz'),
    axis(12, f.name, f.unit),
    axis(f.kind === 4 ? 13 : 12, 'Reference', 'NONE'),
    axis(0, 'NONE', 'NONE'),
    ...rows,
  ]);
}

/** How a direction is called in these files: 1, 2, 3 for x, y, z, negative the other way; 0 for one that lies along none of them. */
export function directionNumber(direction: Vec): number {
  const size = Math.hypot(...direction);
  const at = direction.findIndex((v) => Math.abs(Math.abs(v) - size) < 1e-6 * size);
  return at < 0 || size === 0 ? 0 : Math.sign(direction[at]) * (at + 1);
}
