import Papa from 'papaparse';
import { z } from 'zod';
import { badInput } from '../../errors';
import type { SampledHead } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { isUnit, quantityOf, readUnit } from '../../quantities/quantities';
import type { FormatKind, Recording, Source } from '../format';
import { cellWriting, Pieces } from './pieces';
import type { NumberReader } from './rows';
import { scan } from './table';
import { clockS, dateMs, type Column } from './times';

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

/** Rows above the first row of numbers, at most. */
const PREAMBLE = 60;

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
  const pieces = new Pieces(source);
  const [first] = pieces.all();
  const { data: above, meta } = Papa.parse<string[]>(first ? pieces.text(first) : '', {
    delimiter: options.separator === FOUND ? '' : SEPARATORS[options.separator],
    delimitersToGuess: [';', '\t', ','],
    skipEmptyLines: 'greedy',
    preview: PREAMBLE + 200,
  });
  const { delimiter } = meta;
  const decimal = options.decimal === FOUND ? foundDecimal(above, delimiter) : DECIMALS[options.decimal];
  const writing = cellWriting(delimiter, decimal);
  const from = firstNumbers(above, writing.number);
  if (from < 0)
    throw badInput(
      'file',
      source.name,
      'It holds no rows of numbers: choose another separator or decimal sign.',
    );
  const columns = columnsOf(above, from);
  const table = scan(pieces, writing, from, columns, options.rateHz);
  const { clock, grid } = table;
  const shift = clock ? 1 : 0;
  const left: string[] = [];
  const signals = columns.slice(shift).flatMap(({ name, unit }, k) => {
    const { there, read } = table.cells[k + shift];
    // A column of words is no signal.
    if (read === 0 || read < there / 2) {
      left.push(name);
      return [];
    }
    const head: SampledHead = {
      id: `column-${k + 1 + shift}`,
      name,
      unit,
      quantity: isUnit(unit) ? quantityOf(unit) : '',
      rate: grid.rate,
      startNs: Math.round(clock && clock.start === null ? grid.first * 1e9 : 0),
      width: 1,
      length: grid.length,
    };
    return [{ ...head, read: (at: number, count: number) => table.read(k + shift, at, count) }];
  });
  if (signals.length === 0) throw badInput('file', source.name, 'None of its columns holds numbers.');
  return {
    name: source.name.replace(/\.[^.]*$/, ''),
    start: clock?.start ?? null,
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

const isTime = (cell: string, number: NumberReader) =>
  !Number.isNaN(number(cell)) || clockS(cell) !== null || dateMs(cell) !== null;

/** The first row of numbers that another follows. */
function firstNumbers(rows: string[][], number: NumberReader): number {
  const numeric = (row: string[] | undefined) =>
    row !== undefined &&
    isTime(row[0], number) &&
    (row.length === 1 || row.slice(1).some((cell) => !Number.isNaN(number(cell))));
  for (let r = 0; r < Math.min(rows.length, PREAMBLE); r++)
    if (numeric(rows[r]) && (r === rows.length - 1 || numeric(rows[r + 1]))) return r;
  return -1;
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
