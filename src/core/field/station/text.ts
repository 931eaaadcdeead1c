import { KEEPS, WAYS, isWay, type KeepAs } from './model';
import type { Keep, Measure, Moment, Programme, Table } from './programme';

/** Something about a programme that is wrong, or worth knowing. */
export interface Remark {
  bad: boolean;
  says: string;
  /** Line of its text, from 1 on; of a programme that was never text: null. */
  line: number | null;
  /** What of the programme it is about. */
  at: { part: 'head' } | { part: 'measure' | 'table'; index: number } | null;
}

const SPANS = [
  ['d', 86_400],
  ['h', 3600],
  ['min', 60],
  ['s', 1],
] as const;
/** A number of seconds in the largest unit that holds it whole. */
export function spanOf(seconds: number): string {
  const [unit, size] = SPANS.find(([, size]) => seconds >= size && seconds % size === 0) ?? SPANS[3];
  return `${seconds / size} ${unit}`;
}
/** @returns s of a span such as “15 min”; NaN for what is none */
export function spanS(text: string): number {
  const found = /^\s*(\d+(?:\.\d+)?)\s*(s|min|h|d)\s*$/.exec(text);
  return found ? Number(found[1]) * SPANS.find(([unit]) => unit === found[2])![1] : NaN;
}
const quoted = (name: string) => `"${name.replace(/["\\]/g, '\\$&')}"`;

const keepText = ({ of, as, from, when }: Keep): string => `${as} of ${quoted(of)}${as === 'wind' ? ` from ${quoted(from)}` : ''}${when ? ' with its time' : ''}`; // prettier-ignore
const momentText = (moment: Moment): string => moment.kind === 'every' ? `every ${spanOf(moment.seconds)}` : `when ${quoted(moment.of)} ${moment.turns} ${moment.level}`; // prettier-ignore

/** A programme as text (docs/field-protocol.md): one line for the station, one for each value, one for each table. `programmeOf` reads it back without loss. */
export function programmeText({ model, wakeS, mainsHz, measures, tables }: Programme): string {
  const lines = [`station ${model} wakes every ${spanOf(wakeS)}, rejects ${mainsHz} Hz`];
  for (const { name, unit, way, kind, terminal, times, plus } of measures)
    lines.push(`measure ${quoted(name)}${unit ? ` in ${quoted(unit)}` : ''}: ${way} ${quoted(kind)} on ${terminal || 'nothing'}${times === 1 ? '' : `, times ${times}`}${plus === 0 ? '' : `, plus ${plus}`}`); // prettier-ignore
  for (const { name, moment, rows, keeps } of tables)
    lines.push(`keep in ${quoted(name)} ${momentText(moment)}${rows ? `, ${rows} rows` : ''}: ${keeps.length ? keeps.map(keepText).join('; ') : 'nothing'}`); // prettier-ignore
  return lines.join('\n') + '\n';
}

class Unreadable extends Error {}
/** Reads a line piece by piece. */
class Cursor {
  at = 0;
  constructor(private readonly line: string) {}
  private skip(): void {
    while (this.line[this.at] === ' ' || this.line[this.at] === '\t') this.at++;
  }
  get done(): boolean {
    this.skip();
    return this.at >= this.line.length;
  }
  fail(wanted: string): never {
    this.skip();
    const rest = this.line.slice(this.at, this.at + 24);
    throw new Unreadable(`${wanted} is expected ${rest ? `where “${rest}” stands` : 'at its end'}, column ${this.at + 1}.`); // prettier-ignore
  }
  /** Whether the words come next; they are passed over then. */
  has(words: string): boolean {
    this.skip();
    if (!this.line.startsWith(words, this.at)) return false;
    // “in” is no beginning of “inch”.
    if (/\w$/.test(words) && /\w/.test(this.line[this.at + words.length] ?? '')) return false;
    this.at += words.length;
    return true;
  }
  must(words: string): void {
    if (!this.has(words)) this.fail(`“${words}”`);
  }
  private match(pattern: RegExp): string | null {
    this.skip();
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.line);
    if (!found) return null;
    this.at += found[0].length;
    return found[0];
  }
  word(wanted: string): string {
    return this.match(/[\w-]+/y) ?? this.fail(wanted);
  }
  name(wanted: string): string {
    const text = this.match(/"(?:[^"\\]|\\.)*"/y);
    return text === null ? this.fail(`${wanted} in quotation marks`) : text.slice(1, -1).replace(/\\(.)/g, '$1');
  } // prettier-ignore
  number(wanted: string): number {
    const text = this.match(/[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/iy);
    return text === null ? this.fail(wanted) : Number(text);
  }
  span(): number {
    if (this.has('midnight')) return 86_400;
    const number = this.number('A number');
    const unit = SPANS.find(([unit]) => this.has(unit));
    return unit ? number * unit[1] : this.fail('s, min, h or d');
  }
}

function headOf(c: Cursor): Pick<Programme, 'model' | 'wakeS' | 'mainsHz'> {
  const model = c.word('A model');
  c.must('wakes every');
  const wakeS = c.span();
  c.must(',');
  c.must('rejects');
  const mains = c.number('50 or 60');
  if (mains !== 50 && mains !== 60) c.fail('50 or 60');
  c.must('Hz');
  return { model, wakeS, mainsHz: mains };
}
function measureOf(c: Cursor): Measure {
  const name = c.name('A name');
  const unit = c.has('in') ? c.name('A unit') : '';
  c.must(':');
  const way = c.word('A way of measuring');
  if (!isWay(way)) throw new Unreadable(`“${way}” is no way of measuring: there are ${Object.keys(WAYS).join(', ')}.`); // prettier-ignore
  const kind = c.name(`One of ${WAYS[way].kinds.join(', ')}`);
  c.must('on');
  const terminal = c.has('nothing') ? '' : c.word('A terminal');
  let [times, plus] = [1, 0];
  while (c.has(','))
    if (c.has('times')) times = c.number('A number');
    else {
      c.must('plus');
      plus = c.number('A number');
    }
  return { name, unit, way, kind, terminal, times, plus };
}
function keepOf(c: Cursor): Keep {
  const as = c.word('What is kept') as KeepAs;
  if (!KEEPS.includes(as)) throw new Unreadable(`“${as}” cannot be kept: there are ${KEEPS.join(', ')}.`);
  c.must('of');
  const of = c.name('A value');
  let from = '';
  if (as === 'wind') {
    c.must('from');
    from = c.name('A direction');
  }
  return { of, as, from, when: c.has('with its time') };
}
function tableOf(c: Cursor): Table {
  c.must('in');
  const name = c.name('A name');
  let moment: Moment;
  if (c.has('every')) moment = { kind: 'every', seconds: c.span() };
  else {
    c.must('when');
    const of = c.name('A value');
    const turns = c.has('rises above') ? 'rises above' : (c.must('falls below'), 'falls below' as const);
    moment = { kind: 'event', of, turns, level: c.number('A level') };
  }
  let rows = 0;
  if (c.has(',')) {
    rows = c.number('A number of rows');
    c.must('rows');
  }
  c.must(':');
  const keeps: Keep[] = [];
  if (!c.has('nothing'))
    do keeps.push(keepOf(c));
    while (c.has(';'));
  return { name, moment, rows, keeps };
}

/** Reads a programme’s text. What cannot be read is remarked with its line, and the lines that can be are read all the same.
 *  @returns the programme, what is wrong, and in which line each of its parts stands */
export function programmeOf(text: string): {
  programme: Programme;
  remarks: Remark[];
  lines: { head: number | null; measures: number[]; tables: number[] };
} {
  const programme: Programme = { model: '', wakeS: 60, mainsHz: 50, measures: [], tables: [] };
  const lines = { head: null as number | null, measures: [] as number[], tables: [] as number[] };
  const remarks: Remark[] = [];
  text.split(/\r?\n/).forEach((content, k) => {
    const line = k + 1;
    const c = new Cursor(content);
    if (c.done) return;
    try {
      if (c.has('station')) {
        if (lines.head !== null) throw new Unreadable('A programme is of one station: it has been named above.'); // prettier-ignore
        lines.head = line;
        Object.assign(programme, headOf(c));
      } else if (c.has('measure')) {
        programme.measures.push(measureOf(c));
        lines.measures.push(line);
      } else if (c.has('keep')) {
        programme.tables.push(tableOf(c));
        lines.tables.push(line);
      } else c.fail('“station”, “measure” or “keep”');
      if (!c.done) c.fail('Nothing more');
    } catch (error) {
      if (!(error instanceof Unreadable)) throw error;
      remarks.push({ bad: true, says: error.message, line, at: null });
    }
  });
  if (lines.head === null)
    remarks.push({ bad: true, says: 'Its first line names the station: station ST-9 wakes every 5 s, rejects 50 Hz.', line: 1, at: { part: 'head' } }); // prettier-ignore
  return { programme, remarks, lines };
}
