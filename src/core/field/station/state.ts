import type { Way } from './model';
import type { Remark } from './text';

/** What a table holds. */
export interface TableState {
  name: string;
  /** s between its rows; 0 of one that waits for an event. */
  everyS: number;
  columns: { name: string; unit: string }[];
  /** Rows that fit; number of the oldest that it holds, and one after the newest: rows are counted from 0 on since the programme began. */
  room: number;
  first: number;
  end: number;
  /** By its clock, ms; null where it has no row, and for an event’s next. */
  oldestMs: number | null;
  newestMs: number | null;
  nextMs: number | null;
}
/** How a programme that was sent came out. */
export interface CompileState {
  state: 'none' | 'compiling' | 'runs' | 'refused' | 'interrupted';
  remarks: Remark[];
}
/** What a station says of itself. */
export interface StationState {
  model: string;
  serial: string;
  firmware: string;
  /** What its clock says, ms since 1970. */
  saidMs: number;
  supplyV: number;
  boardC: number;
  /** Of the programme that runs: another number with each one, 0 where none does; CRC-32 of its text, and since when by its clock. */
  run: number;
  check: number;
  sinceMs: number | null;
  compile: CompileState;
  tables: TableState[];
  output: boolean | null;
  /** Values whose “plus” was set by hand since the programme began. */
  adjusted: Record<string, number>;
  /** How often it lost its power since it was made. */
  restarts: number;
  /** Of a stand-in: true time in the world that it plays, ms. */
  worldMs?: number;
}
/** Values as they are now, after the last waking; null stands for no number. */
export interface LiveValues {
  atMs: number | null;
  values: { name: string; unit: string; way: Way | 'own'; terminal: string; reading: number | null; value: number | null }[]; // prettier-ignore
}

/** Rows of a table: their times by the station’s clock, and the numbers of one row after those of the other; a row that was torn by a power cut has no numbers. */
export interface RowsPiece {
  run: number;
  from: number;
  /** Columns of a row. */
  width: number;
  times: Float64Array;
  torn: Uint8Array;
  values: Float32Array;
}
const HEAD = 16;
const padded = (n: number) => (n + 7) & ~7;

/** Bytes of so many rows: what fits into a frame follows. */
export const rowsSize = (count: number, width: number): number => HEAD + count * 8 + padded(count) + count * width * 4; // prettier-ignore
export const rowsThatFit = (bytes: number, width: number): number => Math.max(1, Math.floor((bytes - HEAD - 8) / (9 + 4 * width))); // prettier-ignore

export function rowsBytes({ run, from, width, times, torn, values }: RowsPiece): Uint8Array {
  const n = times.length;
  const bytes = new Uint8Array(rowsSize(n, width));
  const view = new DataView(bytes.buffer);
  view.setUint32(0, run, true);
  view.setUint32(4, from, true);
  view.setUint32(8, n, true);
  view.setUint32(12, width, true);
  bytes.set(bytesOf(times), HEAD);
  bytes.set(torn, HEAD + n * 8);
  bytes.set(bytesOf(values), HEAD + n * 8 + padded(n));
  return bytes;
}
const bytesOf = (of: Float64Array | Float32Array) => new Uint8Array(of.buffer, of.byteOffset, of.byteLength);

/** @throws RangeError for bytes that are cut off */
export function readRows(bytes: Uint8Array): RowsPiece {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [n, width] = bytes.length < HEAD ? [0, 0] : [view.getUint32(8, true), view.getUint32(12, true)];
  if (bytes.length < HEAD || bytes.length !== rowsSize(n, width))
    throw new RangeError('The rows are cut off.');
  // Numbers of eight bytes begin where eight bytes begin.
  const own = bytes.byteOffset % 8 ? bytes.slice() : bytes;
  const at = own.byteOffset + HEAD;
  return {
    run: view.getUint32(0, true),
    from: view.getUint32(4, true),
    width,
    times: new Float64Array(own.buffer, at, n),
    torn: new Uint8Array(own.buffer, at + n * 8, n),
    values: new Float32Array(own.buffer, at + n * 8 + padded(n), n * width),
  };
}

/** Rows of a piece from one index to another. */
export function someRows({ run, from, width, times, torn, values }: RowsPiece, begin: number, end = times.length): RowsPiece {
  return { run, from: from + begin, width, times: times.slice(begin, end), torn: torn.slice(begin, end), values: values.slice(begin * width, end * width) };
} // prettier-ignore
/** A column of rows. @returns shape [end − begin] */
export function columnOf({ width, times, values }: Pick<RowsPiece, 'width' | 'times' | 'values'>, column: number, begin = 0, end = times.length): Float32Array {
  const out = new Float32Array(end - begin);
  for (let i = begin, at = begin * width + column; i < end; i++, at += width) out[i - begin] = values[at];
  return out;
} // prettier-ignore

/** When a table begins to overwrite what it holds, ms by the station’s clock; null where nothing tells. Past it the oldest row is lost with each new one. */
export function wrapsAt({ everyS, room, first, end, newestMs }: Pick<TableState, 'everyS' | 'room' | 'first' | 'end' | 'newestMs'>): number | null {
  if (everyS === 0 || newestMs === null || room === 0) return null;
  return newestMs + (room - (end - first) + 1) * everyS * 1000;
} // prettier-ignore

/** When the oldest row that is not fetched yet is overwritten, ms by the station’s clock; null where all is fetched and none is due. @param fetched one after the newest that is */
export function lostAt(table: Pick<TableState, 'everyS' | 'room' | 'first' | 'end' | 'newestMs'>, fetched: number): number | null {
  const { everyS, room, first, end, newestMs } = table;
  if (everyS === 0 || newestMs === null) return null;
  const oldest = Math.max(fetched, first);
  return newestMs + (room - (end - oldest) + 1) * everyS * 1000;
} // prettier-ignore
