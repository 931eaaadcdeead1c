import Papa from 'papaparse';
import { z } from 'zod';
import { badInput } from '../../errors';
import { sampledOf, type SampledHead } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { decodeText } from '../../text/utf';
import { hz, rateFromHz, type Rate } from '../../time/rate';
import { isUnit, quantityOf, readUnit } from '../../quantities/quantities';
import type { FormatKind, Recording, Source } from '../format';

const FOUND = 'found by itself';
const SEPARATORS = { comma: ',', semicolon: ';', tab: '\t' } as const;
const DECIMALS = { point: '.', comma: ',' } as const;

const schema = z.strictObject({
  separator: field(z.enum([FOUND, 'comma', 'semicolon', 'tab']), {
    label: 'Separator',
    editor: 'choice',
    options: [FOUND, 'comma', 'semicolon', 'tab'],
    help: 'What stands between the cells of a row.',
  }),
  decimal: field(z.enum([FOUND, 'point', 'comma']), {
    label: 'Decimal sign',
    editor: 'choice',
    options: [FOUND, 'point', 'comma'],
    help: 'With the wrong one a value is a thousand times too large, or none at all.',
  }),
  rateHz: field(z.number().positive().max(1e9).nullable(), {
    label: 'Sample rate',
    editor: 'number',
    unit: 'S/s',
    none: 'the rate of its times',
    help: 'For a file without times, or with times that are rounded too much.',
  }),
});
type Options = z.infer<typeof schema>;

const BYTES_MOST = 512 * 1024 * 1024;
/** Rows above the first row of numbers, at most. */
const PREAMBLE = 60;
/** Samples of one signal, gaps among them. */
const SAMPLES_MOST = 200_000_000;
/** Share of a step by which a time may miss its place. */
const JITTER = 0.25;

/** Reads text in columns: a row of names (units in brackets, or in a row of their own), then numbers; times in the first column as seconds, as
 *  clock or as date. Rows that are missing are gaps. */
export const csvReading: NonNullable<FormatKind<z.ZodObject, typeof schema>['reading']> = {
  sentence: {
    schema,
    template: () => 'Cells parted by the separator {separator}, decimal sign {decimal}, sampled at {rateHz}.',
  },
  defaults: { separator: FOUND, decimal: FOUND, rateHz: null },
  recognises: () => false, // text has no beginning of its own: its name tells
  read,
};

function read(source: Source, options: Options): Recording {
  if (source.length > BYTES_MOST)
    throw badInput(
      'file',
      `${Math.round(source.length / 1e6)} MB`,
      'Text of up to 500 MB is read: split it, or export it as WAV.',
    );
  const text = decodeText(source.read(0, source.length)).replace(/^\ufeff/, '');
  const { data: rows, meta } = Papa.parse<string[]>(text, {
    delimiter: options.separator === FOUND ? '' : SEPARATORS[options.separator],
    delimitersToGuess: [';', '\t', ','],
    skipEmptyLines: 'greedy',
  });
  const decimal = options.decimal === FOUND ? foundDecimal(rows, meta.delimiter) : DECIMALS[options.decimal];
  const number = numberReader(decimal);
  const from = firstNumbers(rows, number);
  if (from < 0)
    throw badInput(
      'file',
      source.name,
      'It holds no rows of numbers: choose another separator or decimal sign.',
    );
  const columns = columnsOf(rows, from);
  const body = rows.slice(from);
  const times = timesOf(columns[0], body, number);
  const grid = options.rateHz === null ? gridOf(times, from) : even(options.rateHz, body.length);
  const values = times ? columns.slice(1) : columns;
  const shift = times ? 1 : 0;
  const left: string[] = [];
  const signals = values.flatMap(({ name, unit }, k) => {
    const samples = new Float32Array(grid.length).fill(NaN);
    let read = 0;
    let there = 0;
    body.forEach((row, r) => {
      const cell = row[k + shift]?.trim() ?? '';
      if (cell === '') return;
      there++;
      const value = number(cell);
      if (Number.isNaN(value)) return;
      samples[grid.index(r)] = value;
      read++;
    });
    // A column of words is no signal.
    if (read === 0 || read < there / 2) {
      left.push(name);
      return [];
    }
    const head: Omit<SampledHead, 'length'> = {
      id: `column-${k + 1 + shift}`,
      name,
      unit,
      quantity: isUnit(unit) ? quantityOf(unit) : '',
      rate: grid.rate,
      startNs: Math.round(times && times.start === null ? times.seconds[0] * 1e9 : 0),
      width: 1,
    };
    return [sampledOf(head, samples)];
  });
  if (signals.length === 0) throw badInput('file', source.name, 'None of its columns holds numbers.');
  return {
    name: source.name.replace(/\.[^.]*$/, ''),
    start: times?.start ?? null,
    facts: left.length ? [['Columns left out', left.join(', ')]] : [],
    signals,
  };
}

function foundDecimal(rows: string[][], separator: string): '.' | ',' {
  if (separator === ',') return '.';
  for (const row of rows.slice(0, 200))
    for (const cell of row) if (/^\s*[-+]?\d+,\d+(e[-+]?\d+)?\s*$/i.test(cell)) return ',';
  return '.';
}

const numberReader = (decimal: '.' | ',') => {
  const plain = /^[-+−]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i;
  return (cell: string): number => {
    const text = (decimal === ',' ? cell.trim().replace(',', '.') : cell.trim()).replace('−', '-');
    return plain.test(text) ? Number(text) : NaN;
  };
};

const isTime = (cell: string, number: (cell: string) => number) =>
  !Number.isNaN(number(cell)) || clockS(cell) !== null || dateMs(cell) !== null;

/** The first row of numbers that another follows. */
function firstNumbers(rows: string[][], number: (cell: string) => number): number {
  const numeric = (row: string[] | undefined) =>
    row !== undefined &&
    isTime(row[0], number) &&
    (row.length === 1 || row.slice(1).some((cell) => !Number.isNaN(number(cell))));
  for (let r = 0; r < Math.min(rows.length, PREAMBLE); r++)
    if (numeric(rows[r]) && (r === rows.length - 1 || numeric(rows[r + 1]))) return r;
  return -1;
}

interface Column {
  name: string;
  unit: string;
}
function columnsOf(rows: string[][], from: number): Column[] {
  const width = Math.max(...rows.slice(from, from + 200).map((r) => r.length));
  const head = from > 0 ? rows[from - 1] : [];
  const above = from > 1 ? rows[from - 2] : [];
  const unitRow =
    above.length === head.length &&
    head.filter((c) => c.trim()).length > 0 &&
    head.every((c) => c.trim() === '' || unitIn(bare(c)) !== null);
  const names = unitRow ? above : head;
  const used = new Set<string>();
  return Array.from({ length: width }, (_, k) => {
    const written = names[k]?.trim() ?? '';
    const own = unitRow ? { name: written, unit: unitIn(bare(head[k] ?? '')) ?? '1' } : named(written);
    let name = own.name || `Column ${k + 1}`;
    for (let n = 2; used.has(name); n++) name = `${own.name || 'Column'} ${n}`;
    used.add(name);
    return { name, unit: own.unit };
  });
}
const bare = (cell: string) => cell.trim().replace(/^[[(]\s*|\s*[\])]$/g, '');

/** “Flow [m/s]”, “Flow (m/s)”, “Flow, m/s”: the name and the unit, where it is one. */
function named(cell: string): Column {
  const found =
    /^(.*?)\s*\[([^\]]*)\]$/.exec(cell) ??
    /^(.*?)\s*\(([^)]*)\)$/.exec(cell) ??
    /^(.*)[,/]\s*([^,/]+)$/.exec(cell);
  const unit = found && unitIn(found[2]);
  return unit ? { name: found[1].trim(), unit } : { name: cell, unit: '1' };
}
function unitIn(text: string): string | null {
  if (text.trim() === '') return null;
  try {
    return readUnit(text.trim());
  } catch {
    return null;
  }
}

interface Times {
  /** Of each row: from the first where there is a date, else as written. */
  seconds: Float64Array;
  /** Instant of the first, ISO 8601; null where only durations are written. */
  start: string | null;
}
const TIME_NAME = /^(time|times|t|date|date\/time|datetime|timestamp|elapsed|zeit|datum|temps)\b/i;
const SECONDS: Record<string, number> = { s: 1, ms: 1e-3, µs: 1e-6, min: 60, h: 3600 };

/** Times of the rows, where the first column holds them. @throws `bad_input` naming the row that cannot be read */
function timesOf(column: Column, body: string[][], number: (cell: string) => number): Times | null {
  const first = body[0][0];
  const date = dateMs(first);
  const clock = clockS(first);
  if (date === null && clock === null && !TIME_NAME.test(column.name)) return null;
  const factor = SECONDS[column.unit] ?? 1;
  let days = 0;
  let last = -Infinity;
  const seconds = Float64Array.from(body, ([cell], r) => {
    const ms = date === null ? null : dateMs(cell);
    const own =
      date !== null
        ? ms === null
          ? null
          : (ms - date) / 1000
        : clock !== null
          ? clockS(cell)
          : number(cell) * factor;
    if (own === null || Number.isNaN(own))
      throw badInput('time', `“${cell}” in row ${r + 1} of the numbers`, 'Write all times in the same way.');
    // A clock begins anew at midnight.
    if (clock !== null && date === null) {
      if (own + days * 86_400 < last - 43_200) days++;
      return (last = own + days * 86_400);
    }
    return own;
  });
  return { seconds, start: date === null ? null : new Date(date).toISOString() };
}

/** “14:03:07.25” as seconds of the day. */
function clockS(cell: string): number | null {
  const m = /^\s*(\d{1,3}):(\d\d)(?::(\d\d(?:[.,]\d+)?))?\s*$/.exec(cell);
  return m ? Number(m[1]) * 3600 + Number(m[2]) * 60 + Number((m[3] ?? '0').replace(',', '.')) : null;
}
/** “2027-03-14 14:03:07.25”, also with T, Z or an offset; without one it is UTC. */
function dateMs(cell: string): number | null {
  const m =
    /^\s*(\d{4})-(\d\d)-(\d\d)(?:[T ](\d\d):(\d\d)(?::(\d\d(?:[.,]\d+)?))?\s*(Z|[+-]\d\d:?\d\d)?)?\s*$/.exec(
      cell,
    );
  if (!m) return null;
  const [, y, mo, d, h = '0', mi = '0', s = '0', zone = 'Z'] = m;
  const offset =
    zone === 'Z' ? 0 : (zone[0] === '-' ? -1 : 1) * (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(-2)));
  const ms = Date.UTC(Number(y), Number(mo) - 1, Number(d), Number(h), Number(mi)) - offset * 60_000;
  return Number(mo) > 12 || Number(d) > 31 || Number(mo) < 1 ? null : ms + Number(s.replace(',', '.')) * 1000;
}

interface Grid {
  rate: Rate;
  length: number;
  /** Index of a row’s sample. */
  index(row: number): number;
}
const even = (rateHz: number, length: number): Grid => ({
  rate: rateFromHz(rateHz),
  length,
  index: (row) => row,
});

/** Places of the rows on one grid of times. @throws `bad_input` naming the row whose time lies on none */
function gridOf(times: Times | null, from: number): Grid {
  const next = 'Give the sample rate, or write the times with more digits.';
  if (!times) throw badInput('times', 'none in the first column', next);
  const { seconds } = times;
  if (seconds.length < 2) throw badInput('times', 'one row', next);
  const steps = Float64Array.from(
    { length: seconds.length - 1 },
    (_, i) => seconds[i + 1] - seconds[i],
  ).sort();
  const step = steps[(steps.length - 1) >> 1];
  const wrong = (r: number) =>
    badInput(
      'times',
      `row ${from + r + 1} at ${seconds[r]} s`,
      `It is no step of ${Number(step.toPrecision(6))} s after the row before. ${next}`,
    );
  if (!(step > 0)) throw wrong(1);
  const rate = rateOf(step, seconds);
  const perSecond = hz(rate);
  const indices = new Float64Array(seconds.length);
  for (let r = 0; r < seconds.length; r++) {
    const at = (seconds[r] - seconds[0]) * perSecond;
    indices[r] = Math.round(at);
    if (Math.abs(at - indices[r]) > JITTER || (r > 0 && indices[r] <= indices[r - 1])) throw wrong(r);
  }
  const length = indices[indices.length - 1] + 1;
  if (length > SAMPLES_MOST)
    throw badInput('times', `${length} samples with their gaps`, 'Split the file where it pauses.');
  return { rate, length, index: (row) => indices[row] };
}

/** The mean of all single steps, so that rounded times make no wrong rate; whole rates and whole seconds where it is nearly one. */
function rateOf(step: number, seconds: Float64Array): Rate {
  let sum = 0;
  let n = 0;
  for (let i = 1; i < seconds.length; i++) {
    const own = seconds[i] - seconds[i - 1];
    if (Math.abs(own - step) > JITTER * step) continue;
    sum += own;
    n++;
  }
  const mean = sum / n;
  const per = 1 / mean;
  if (Math.abs(per - Math.round(per)) < 1e-4 * per) return { num: Math.round(per), den: 1 };
  if (Math.abs(mean - Math.round(mean)) < 1e-4 * mean) return { num: 1, den: Math.round(mean) };
  return rateFromHz(per);
}
