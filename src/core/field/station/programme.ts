import { ALWAYS, type KeepAs, type StationModel, type Way } from './model';

/** A value that a station measures at each waking. */
export interface Measure {
  name: string;
  unit: string;
  way: Way;
  /** Which of the way’s kinds: a range, a type, a rate, the number of a word in a line. */
  kind: string;
  terminal: string;
  /** value = reading · times + plus */
  times: number;
  plus: number;
}
/** A column of a table, or several: what of a value is kept. */
export interface Keep {
  of: string;
  as: KeepAs;
  /** Of wind: the value that is its direction. */
  from: string;
  /** Of the lowest and the highest: whether when it was is kept, too. */
  when: boolean;
}
/** When a row is written: every so often by the station’s clock, from midnight on; or as a value passes a level. */
export type Moment =
  | { kind: 'every'; seconds: number }
  | { kind: 'event'; of: string; turns: 'rises above' | 'falls below'; level: number };
export interface Table {
  name: string;
  moment: Moment;
  /** Rows that it holds before the oldest is overwritten; 0: its share of what memory is left. */
  rows: number;
  keeps: Keep[];
}
/** What a station is to do by itself. */
export interface Programme {
  model: string;
  wakeS: number;
  /** Mains that is rejected, Hz. */
  mainsHz: 50 | 60;
  measures: Measure[];
  tables: Table[];
}
export const EMPTY_PROGRAMME: Programme = { model: 'ST-9', wakeS: 5, mainsHz: 50, measures: [], tables: [] };

/** Values that a programme has: what every station measures of itself, then its own. */
export const valuesOf = ({ measures }: Pick<Programme, 'measures'>): { name: string; unit: string }[] => [
  ...ALWAYS,
  ...measures.map(({ name, unit }) => ({ name, unit })),
];

/** A column of a table’s rows. */
export interface Column {
  name: string;
  unit: string;
}
/** Columns of a table in the order of its rows. */
export function columnsOf(programme: Pick<Programme, 'measures'>, { keeps }: Pick<Table, 'keeps'>): Column[] {
  const units = new Map(valuesOf(programme).map((v) => [v.name, v.unit]));
  return keeps.flatMap(({ of, as, from, when }): Column[] => {
    const unit = units.get(of) ?? '';
    if (as === 'wind') return [{ name: `${of}, mean vector`, unit }, { name: `${from}, mean vector`, unit: '°' }, { name: `${from}, spread`, unit: '°' }]; // prettier-ignore
    const own = { name: `${of}, ${as}`, unit: as === 'total' && unit === '' ? '' : unit };
    // A time is told from the beginning of its interval: a number of seconds keeps its digits.
    return when && (as === 'lowest' || as === 'highest')
      ? [own, { name: `${own.name}, after`, unit: 's' }]
      : [own];
  });
}

/** Bytes of a row beside its columns: its number, its time and its check. */
const ROW_HEAD = 16;
export const rowBytes = (columns: number): number => ROW_HEAD + 4 * columns;

/** Rows that each table holds. What has no number of its own shares what is left so that all of these last equally long; a table of events gets a fixed share.
 *  @returns 0 for a table that no memory is left for */
export function roomOf(programme: Programme, { memory }: Pick<StationModel, 'memory'>): number[] {
  const sizes = programme.tables.map((table) => rowBytes(columnsOf(programme, table).length));
  let left = memory - programme.tables.reduce((sum, { rows }, k) => sum + rows * sizes[k], 0);
  const events = programme.tables.filter((t) => t.rows === 0 && t.moment.kind === 'event').length;
  const eventBytes = events ? Math.max(0, left) / (4 * events) : 0;
  left -= eventBytes * events;
  /** Bytes that one second takes in all tables that share. */
  const perS = programme.tables.reduce((sum, { rows, moment }, k) => sum + (rows === 0 && moment.kind === 'every' ? sizes[k] / moment.seconds : 0), 0); // prettier-ignore
  const lastsS = perS > 0 ? Math.max(0, left) / perS : 0;
  return programme.tables.map(({ rows, moment }, k) =>
    rows > 0
      ? rows
      : moment.kind === 'event'
        ? Math.floor(eventBytes / sizes[k])
        : Math.floor(lastsS / moment.seconds),
  );
}
