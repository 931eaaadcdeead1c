import { z } from 'zod';
import { badInput } from '../../errors';
import { endS, lastUpTo, rateHz, startS, type Sampled } from '../../samples/sampled';
import type { FormatKind, Recording } from '../format';
import { field } from '../../sentence/sentence';
import { Digits } from './digits';
import { csvReading } from './read';

const writing = z.strictObject({
  stepS: field(z.number().positive('Give a step above 0 s.').max(86_400).nullable(), {
    label: 'Time step',
    editor: 'number',
    unit: 's',
    none: 'as sampled',
    help: 'Empty takes the samples as they were taken, of the fastest channel; slower ones leave cells empty.',
  }),
  decimal: field(z.enum(['point', 'comma']), {
    label: 'Decimal sign',
    editor: 'choice',
    options: ['point', 'comma'],
    help: 'As the spreadsheet that opens it expects; with a comma the cells are parted by semicolons.',
  }),
});
export type CsvOptions = z.infer<typeof writing>;

const ROWS_AT_A_TIME = 4096;
/** What a spreadsheet takes, less the header: a step that makes more is a mistake; samples as they are may be for another program. */
const MAX_ROWS = 1_048_576 - 1;

/** Comma-separated values (RFC 4180) in UTF-8 with byte order mark, one header row with name and unit in each cell.
 *  Fixed step: each cell holds the last sample at or before the row's time (none before the first sample: empty).
 *  Gaps are empty cells. */
export const csv: FormatKind<typeof writing, typeof csvReading.sentence.schema> = {
  kind: 'csv',
  title: 'CSV, for a spreadsheet',
  extensions: ['csv', 'tsv', 'txt'],
  mediaType: 'text/csv; charset=utf-8',
  cannotCarry:
    'Marks, calibrations and the raw values stay in the take; samples of different rates share one column of times.',
  reading: csvReading,
  writing: {
    sentence: {
      schema: writing,
      template: () => 'A row for each step of {stepS}, decimal {decimal}.',
    },
    defaults: { stepS: null, decimal: 'point' },
    write,
  },
};

function* write({ signals }: Recording, options: CsvOptions): Generator<string | Uint8Array> {
  if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
  const end = Math.max(...signals.map(endS));
  const grid =
    options.stepS === null
      ? sampleGrid(signals)
      : { start: 0, step: options.stepS, rows: Math.floor(end / options.stepS) + 1 };
  if (!(grid.step > 0) || !Number.isFinite(grid.step))
    throw badInput('time step', options.stepS, 'Give a step above 0 s.');
  if (options.stepS !== null && grid.rows > MAX_ROWS)
    throw badInput(
      'time step',
      `${grid.step} s, which makes ${grid.rows} rows,`,
      `A spreadsheet takes ${MAX_ROWS}: choose a longer step.`,
    );
  const separator = options.decimal === 'comma' ? ';' : ',';
  const decimals = Math.min(9, Math.max(0, Math.ceil(-Math.log10(grid.step) + 3)));
  const text = new Digits((options.decimal === 'comma' ? ',' : '.').charCodeAt(0));
  const parted = separator.charCodeAt(0);
  const header = ['Time [s]', ...signals.map((s) => `${s.name} [${s.unit}]`)];
  yield '\ufeff' + header.map((cell) => quote(cell, separator)).join(separator) + '\r\n';
  const columns = signals.map((signal) => new Column(signal, options.stepS === null));
  for (let row = 0; row < grid.rows; row += ROWS_AT_A_TIME) {
    for (let r = row; r < Math.min(grid.rows, row + ROWS_AT_A_TIME); r++) {
      const time = grid.start + r * grid.step;
      text.fixed(time, decimals);
      for (const column of columns) {
        text.byte(parted);
        text.significant(column.at(time));
      }
      text.byte(13);
      text.byte(10);
    }
    yield text.taken();
  }
}

function sampleGrid(signals: Sampled[]) {
  const fastest = signals.reduce((a, b) => (rateHz(b) > rateHz(a) ? b : a));
  return { start: startS(fastest), step: 1 / rateHz(fastest), rows: fastest.length };
}

/** Reads a signal at rising times, a block at a time. */
class Column {
  private block = new Float32Array(0);
  private first = 0;
  private last = -1;

  constructor(
    private readonly signal: Sampled,
    /** true: a sample stands only in the row nearest after it was taken */
    private readonly once: boolean,
  ) {}

  at(time: number): number {
    const { signal } = this;
    const index = lastUpTo(signal, time);
    if (index < 0 || index >= signal.length + (this.once ? 0 : rateHz(signal))) return NaN;
    const held = Math.min(index, signal.length - 1);
    if (this.once && held === this.last) return NaN;
    this.last = held;
    if (held >= this.first + this.block.length) {
      this.first = held;
      this.block = signal.read(held, Math.min(1 << 16, signal.length - held)).slice();
    }
    return this.block[held - this.first];
  }
}

/** Quotes a cell where needed; a leading sign that a spreadsheet would run as a formula is disarmed. */
export function quote(cell: string, separator: string): string {
  const safe = /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell;
  return safe.includes(separator) || /["\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}
