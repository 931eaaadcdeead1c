import { badInput } from '../../errors';
import type { Rows } from './rows';

/** How the cells of a column are times. */
export const TIMES = ['found by itself', 'as numbers', 'as days of a spreadsheet', 'none'] as const;
export interface TimeColumn {
  at: number;
  as: (typeof TIMES)[number];
}
/** Days of a spreadsheet begin here (ISO/IEC 29500: 1 March 1900 is day 61). */
const SPREADSHEET_DAY_0 = Date.UTC(1899, 11, 30);

export interface Column {
  name: string;
  unit: string;
}

/** What reads the times of rows. */
export interface Clock {
  /** Instant of the first, ISO 8601; null where only durations are written. */
  start: string | null;
  /** Seconds of the next row, by its first cell: from the first row where there is a date, else as written. @throws `bad_input` naming the row */
  next(row: Pick<Rows, 'text' | 'value'>): number;
  /** Where it stands, so that a part can be read again. */
  state(): { days: number; last: number; row: number };
  go(state: { days: number; last: number; row: number }): void;
}
const TIME_NAME =
  /^(time|times|t|date|date\/time|datetime|timestamp|elapsed|zeit|datum|temps)\b|^(s|sec|secs|seconds)$/i;
/** Whether a column holds times, by its name. */
export const isTimeColumn = (name: string): boolean => TIME_NAME.test(name);
const SECONDS: Record<string, number> = { s: 1, ms: 1e-3, µs: 1e-6, min: 60, h: 3600 };

/** The clock of the column of times, where it holds some. @param first of its cells @param number what it says as a number */
export function clockOf(column: Column, { at, as }: TimeColumn, first: string, number: number): Clock | null {
  if (as === 'none') return null;
  if (as === 'as days of a spreadsheet') return daysOf(at, number);
  const plain = as === 'as numbers';
  const date = plain ? null : dateMs(first);
  const clock = plain ? null : clockS(first);
  if (!plain && date === null && clock === null && !isTimeColumn(column.name)) return null;
  const factor = SECONDS[column.unit] ?? 1;
  let days = 0;
  let last = -Infinity;
  let row = 0;
  const read = (cell: Pick<Rows, 'text' | 'value'>): number | null => {
    if (date !== null) {
      const ms = dateMs(cell.text(at));
      return ms === null ? null : (ms - date) / 1000;
    }
    return clock !== null ? clockS(cell.text(at)) : cell.value(at) * factor;
  };
  return {
    start: date === null ? null : new Date(date).toISOString(),
    next(cell) {
      row++;
      const own = read(cell);
      if (own === null || Number.isNaN(own))
        throw badInput(
          'time',
          `“${cell.text(at)}” in row ${row} of the numbers`,
          'Write all times in the same way.',
        );
      if (clock === null || date !== null) return own;
      // A clock begins anew at midnight.
      if (own + days * 86_400 < last - 43_200) days++;
      return (last = own + days * 86_400);
    },
    state: () => ({ days, last, row }),
    go: (state) => ({ days, last, row } = state),
  };
}

/** Whole days and parts of days since a day of long ago. */
function daysOf(at: number, first: number): Clock | null {
  const begin = SPREADSHEET_DAY_0 + Math.round(first * 86_400_000);
  if (!(Math.abs(begin) < 8e15)) throw badInput('time', first, 'No such day: choose another way to read the times.'); // prettier-ignore
  let row = 0;
  return {
    start: new Date(begin).toISOString(),
    next(cell) {
      row++;
      const own = cell.value(at);
      if (Number.isNaN(own)) throw badInput('time', `“${cell.text(at)}” in row ${row} of the numbers`, 'Write all times in the same way.'); // prettier-ignore
      // Days of some five digits have their parts to a fraction of a microsecond.
      return Math.round((own - first) * 86_400e6) / 1e6;
    },
    state: () => ({ days: 0, last: -Infinity, row }),
    go: (state) => void (row = state.row),
  };
}

/** “14:03:07.25” as seconds of the day. */
export function clockS(cell: string): number | null {
  const m = /^\s*(\d{1,3}):(\d\d)(?::(\d\d(?:[.,]\d+)?))?\s*$/.exec(cell);
  return m ? Number(m[1]) * 3600 + Number(m[2]) * 60 + Number((m[3] ?? '0').replace(',', '.')) : null;
}
/** “2027-03-14 14:03:07.25”, also with T, Z or an offset; without one it is UTC. */
export function dateMs(cell: string): number | null {
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
