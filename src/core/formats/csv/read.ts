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
import { TIMES, clockS, dateMs, isTimeColumn, type Column } from './times';

const FOUND = 'found by itself';
const SEPARATORS = { comma: ',', semicolon: ';', tab: '\t' } as const;
const DECIMALS = { point: '.', comma: ',' } as const;

/** Rows above the first row of numbers, at most. */
const PREAMBLE = 60;

/** How the rows and times of a table are understood, whatever file it comes from. */
export const tableFields = {
  rateHz: field(z.number().positive().max(1e9).nullable(), {
    label: 'Sample rate',
    editor: 'number',
    unit: 'S/s',
    none: 'the rate of its times',
    help: 'For a file without times, or with times that are rounded too much.',
  }),
  times: field(z.enum(TIMES), {
    label: 'Times',
    editor: 'choice',
    options: TIMES,
    help: 'Seconds, clocks and dates are found by themselves; days of a spreadsheet look like 46095.585.',
  }),
  timeColumn: field(z.number().int().min(1).max(16_384).nullable(), {
    label: 'Column of times',
    editor: 'number',
    none: 'found by its name',
    help: 'The first is 1.',
  }),
  namesRow: field(z.number().int().min(1).max(PREAMBLE).nullable(), {
    label: 'Row of names',
    editor: 'number',
    none: 'found by itself',
    help: 'The first row that holds anything is 1.',
  }),
  unitsRow: field(z.number().int().min(1).max(PREAMBLE).nullable(), {
    label: 'Row of units',
    editor: 'number',
    none: 'found by itself',
    help: 'Where units stand in a row of their own.',
  }),
};

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
  ...tableFields,
});
type Options = z.infer<typeof schema>;

/** Reads text in columns: a row of names (units in brackets, or in a row of their own), then numbers; times in the first column as seconds, as
 *  clock or as date. Rows that are missing are gaps. */
export const csvReading: NonNullable<FormatKind<z.ZodObject, typeof schema>['reading']> = {
  sentence: {
    schema,
    template: ({ times }) =>
      `Cells parted by the separator {separator}, decimal sign {decimal}. Names in the row {namesRow}, units in the row {unitsRow}. Times {times}${times === 'none' ? '' : ' in column {timeColumn}'}, sampled at {rateHz}.`,
  },
  defaults: {
    separator: FOUND,
    decimal: FOUND,
    rateHz: null,
    times: FOUND,
    timeColumn: null,
    namesRow: null,
    unitsRow: null,
  },
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
  const said = (options.timeColumn ?? 1) - 1;
  const from = firstNumbers(above, writing.number, said, Math.max(options.namesRow ?? 0, options.unitsRow ?? 0)); // prettier-ignore
  if (from < 0)
    throw badInput(
      'file',
      source.name,
      'It holds no rows of numbers: choose another separator, decimal sign or column of times.',
    );
  const columns = columnsOf(above, from, options);
  // The first that is called so; else the first of all, whose cells may be clocks or dates.
  const called = options.timeColumn === null ? columns.findIndex((c) => isTimeColumn(c.name)) : said;
  const time = { at: Math.max(0, called), as: options.times };
  if (time.at >= columns.length)
    throw badInput(
      'Column of times',
      options.timeColumn,
      `There are ${columns.length} columns: choose another.`,
    );
  const table = scan(pieces, writing, from, columns, time, options.rateHz);
  const { clock, grid } = table;
  const left: string[] = [];
  const signals = columns.flatMap(({ name, unit }, k) => {
    if (clock && k === time.at) return [];
    const { there, read } = table.cells[k];
    // A column of words is no signal.
    if (read === 0 || read < there / 2) {
      left.push(name);
      return [];
    }
    const head: SampledHead = {
      id: `column-${k + 1}`,
      name,
      unit,
      quantity: isUnit(unit) ? quantityOf(unit) : '',
      rate: grid.rate,
      startNs: Math.round(clock && clock.start === null ? grid.first * 1e9 : 0),
      width: 1,
      length: grid.length,
    };
    return [{ ...head, read: (at: number, count: number) => table.read(k, at, count) }];
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

/** The first row of numbers that another follows. @param after rows that are heads @param column of the times */
function firstNumbers(rows: string[][], number: NumberReader, column: number, after: number): number {
  const numeric = (row: string[] | undefined) =>
    row !== undefined &&
    isTime(row[column] ?? '', number) &&
    (row.length === 1 || row.some((cell, k) => k !== column && !Number.isNaN(number(cell))));
  for (let r = after; r < Math.min(rows.length, PREAMBLE); r++)
    if (numeric(rows[r]) && (r === rows.length - 1 || numeric(rows[r + 1]))) return r;
  return -1;
}

function columnsOf(
  rows: string[][],
  from: number,
  { namesRow, unitsRow }: Pick<Options, 'namesRow' | 'unitsRow'>,
): Column[] {
  const width = Math.max(...rows.slice(from, from + 200).map((r) => r.length));
  const [above, head] = headRows(rows, from, namesRow, unitsRow);
  const unitRow =
    unitsRow !== null ||
    (namesRow === null &&
      above.length === head.length &&
      head.filter((c) => c.trim()).length > 0 &&
      head.every((c) => c.trim() === '' || unitIn(bare(c)) !== null));
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
/** The row that may hold names where units stand below them, and the one that holds units or names with units. */
function headRows(
  rows: string[][],
  from: number,
  namesRow: number | null,
  unitsRow: number | null,
): [string[], string[]] {
  if (unitsRow !== null) return [rows[(namesRow ?? unitsRow - 1) - 1] ?? [], rows[unitsRow - 1] ?? []];
  if (namesRow !== null) return [[], rows[namesRow - 1] ?? []];
  return [from > 1 ? rows[from - 2] : [], from > 0 ? rows[from - 1] : []];
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
