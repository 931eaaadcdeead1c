import { badInput } from '../../errors';
import type { FormatKind, FormatSignal } from '../format';

export interface CsvOptions {
  /** A fixed time step in seconds, or null for the samples as they were taken (of the fastest signal; slower ones leave cells empty). */
  stepS: number | null;
  /** Decimal sign; a comma makes the cells separated by semicolons. */
  decimal: '.' | ',';
}

const ROWS_AT_A_TIME = 4096;
const MAX_ROWS = 1_048_576 - 1; // what a spreadsheet takes, less the header

/** Comma-separated values (RFC 4180) in UTF-8 with byte order mark, one header row with name and unit in each cell.
 *  Fixed step: each cell holds the last sample at or before the row's time (none before the first sample: empty).
 *  Gaps are empty cells. */
export const csv: FormatKind<CsvOptions> = {
  kind: 'csv',
  title: 'CSV for a spreadsheet',
  extension: 'csv',
  mediaType: 'text/csv; charset=utf-8',
  cannotCarry:
    'Marks, calibrations and the raw values stay in the take; samples of different rates share one column of times.',
  *write(recording, options) {
    const { signals } = recording;
    if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
    const end = Math.max(...signals.map((s) => s.startS + s.length / s.sampleRateHz));
    const grid =
      options.stepS === null
        ? sampleGrid(signals)
        : { start: 0, step: options.stepS, rows: Math.floor(end / options.stepS) + 1 };
    if (!(grid.step > 0) || !Number.isFinite(grid.step))
      throw badInput('time step', options.stepS, 'Give a step above 0 s.');
    if (grid.rows > MAX_ROWS)
      throw badInput(
        'time step',
        `${grid.step} s, which makes ${grid.rows} rows,`,
        `A spreadsheet takes ${MAX_ROWS}: choose a longer step.`,
      );
    const separator = options.decimal === ',' ? ';' : ',';
    const decimals = Math.min(9, Math.max(0, Math.ceil(-Math.log10(grid.step) + 3)));
    const text = new Lines(options.decimal);
    const header = ['Time [s]', ...signals.map((s) => `${s.name} [${s.unit}]`)];
    yield '\ufeff' + header.map((cell) => quote(cell, separator)).join(separator) + '\r\n';
    const columns = signals.map((signal) => new Column(signal, options.stepS === null, grid.step));
    for (let row = 0; row < grid.rows; row += ROWS_AT_A_TIME) {
      let out = '';
      for (let r = row; r < Math.min(grid.rows, row + ROWS_AT_A_TIME); r++) {
        const time = grid.start + r * grid.step;
        out += text.fixed(time, decimals);
        for (const column of columns) out += separator + text.number(column.at(time));
        out += '\r\n';
      }
      yield out;
    }
  },
};

function sampleGrid(signals: FormatSignal[]) {
  const fastest = signals.reduce((a, b) => (b.sampleRateHz > a.sampleRateHz ? b : a));
  return { start: fastest.startS, step: 1 / fastest.sampleRateHz, rows: fastest.length };
}

/** Reads a signal at rising times, a block at a time. */
class Column {
  private block = new Float32Array(0);
  private first = 0;
  private last = -1;

  constructor(
    private readonly signal: FormatSignal,
    /** true: a sample stands only in the row nearest after it was taken */
    private readonly once: boolean,
    step: number,
  ) {
    this.slack = step * 1e-3;
  }
  private readonly slack: number;

  at(time: number): number {
    const { signal } = this;
    const index = Math.floor((time - signal.startS + this.slack) * signal.sampleRateHz);
    if (index < 0 || index >= signal.length + (this.once ? 0 : signal.sampleRateHz)) return NaN;
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

class Lines {
  constructor(private readonly decimal: '.' | ',') {}
  fixed(value: number, decimals: number): string {
    return this.point(value.toFixed(decimals));
  }
  /** Seven significant digits, as many as a 32-bit sample holds; nothing for a missing value. */
  number(value: number): string {
    return Number.isFinite(value) ? this.point(String(Number(value.toPrecision(7)))) : '';
  }
  private point(text: string): string {
    return this.decimal === ',' ? text.replace('.', ',') : text;
  }
}

/** Quotes a cell where needed; a leading sign that a spreadsheet would run as a formula is disarmed. */
export function quote(cell: string, separator: string): string {
  const safe = /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell;
  return safe.includes(separator) || /["\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}
