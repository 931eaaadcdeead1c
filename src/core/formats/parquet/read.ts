import type { FileMetaData, SchemaElement } from 'hyparquet';
import { parquetMetadata } from 'hyparquet';
import { readColumn } from 'hyparquet/src/column.js';
import { DEFAULT_PARSERS } from 'hyparquet/src/convert.js';
import { compressors } from 'hyparquet-compressors';
import { parquetSchema } from 'hyparquet';
import { getTreePath } from 'hyparquet/src/schema.js';
import { FarrierError, badInput, damaged } from '../../errors';
import { sampledOf, type Sampled } from '../../samples/sampled';
import { isTimeName, signalsOfColumns } from '../grid';
import type { Recording, Source } from '../format';
import type { ParquetAbout } from './about';

/** A file's description at its end, bytes at the most. */
const DESCRIPTION_MOST = 64e6;
/** Numbers that are held in memory at the most. */
const NUMBERS_MOST = 200e6;
/** Bytes that a group of rows may take when it is unpacked. */
const GROUP_MOST = 2e9;

const NUMBERS = new Set(['INT32', 'INT64', 'FLOAT', 'DOUBLE']);
const isNumber = (c: SchemaElement) =>
  c.type !== undefined &&
  (NUMBERS.has(c.type) || c.converted_type === 'DECIMAL' || c.logical_type?.type === 'DECIMAL');

/** Columns of numbers of a Parquet file as signals: its times by a column of seconds or instants, else by the rate that is given.
 *  @throws `damaged`, `bad_input` */
export function readParquet(source: Source, { rateHz }: { rateHz: number | null }): Recording {
  try {
    return read(source, rateHz);
  } catch (error) {
    if (error instanceof FarrierError) throw error;
    throw damaged(source.name, `It cannot be read: ${String((error as Error).message).slice(0, 200)}.`, 'Write it again, or copy it again.'); // prettier-ignore
  }
}

function read(source: Source, rateHz: number | null): Recording {
  const metadata = metadataOf(source);
  const columns = metadata.schema.slice(1);
  const flat = metadata.schema[0].num_children === columns.length ? columns : [];
  const numbers = flat.filter(isNumber);
  if (numbers.length === 0) throw badInput('file', source.name, 'It holds no columns of numbers.');
  const rows = Number(metadata.num_rows);
  if (rows * numbers.length > NUMBERS_MOST)
    throw badInput('file', `${rows} rows of ${numbers.length} columns`, 'Up to 200 million numbers are read: split the file.'); // prettier-ignore
  const values = new Map(numbers.map((c) => [c.name, columnOf(source, metadata, c, rows)]));
  const own = aboutOf(metadata);
  const clock = numbers.find((c) => instants(c) || isTimeName(c.name));
  const name = source.name.replace(/\.[^.]*$/, '');
  if (own && clock && values.has('value')) return ours(own, values.get(clock.name)!, values.get('value')!);
  const times = clock ? values.get(clock.name)! : null;
  const factor = clock ? instants(clock) : null;
  const begin = times && factor ? times[0] * factor : null;
  const seconds = times && factor ? times.map((t) => (t - times[0]) * factor) : times;
  return {
    name,
    start: begin === null ? null : new Date(begin * 1000).toISOString(),
    facts: [],
    signals: signalsOfColumns(
      numbers.filter((c) => c !== clock).map((c) => ({ name: c.name, unit: '1', values: values.get(c.name)! })),
      seconds,
      rateHz,
    ),
  };
} // prettier-ignore

/** Of a column of instants: seconds of its step; null for plain numbers. */
function instants({ logical_type: logical, converted_type: converted }: SchemaElement): number | null {
  if (logical?.type === 'TIMESTAMP') return { MILLIS: 1e-3, MICROS: 1e-6, NANOS: 1e-9 }[logical.unit];
  if (converted === 'TIMESTAMP_MILLIS') return 1e-3;
  return converted === 'TIMESTAMP_MICROS' ? 1e-6 : null;
}

/** A file of ours: samples at their places, gaps where there are no rows. */
function ours(about: ParquetAbout, time: Float64Array, value: Float64Array): Recording {
  const { name, unit, quantity, rate, startNs, length, take, start } = about;
  if (!(length >= 0 && length <= NUMBERS_MOST)) throw badInput('length', length, 'It says a wrong length.');
  const placed = new Float32Array(length).fill(NaN);
  for (let i = 0; i < time.length; i++) {
    const at = Math.round(((time[i] - startNs / 1e9) * rate.num) / rate.den);
    if (at >= 0 && at < length) placed[at] = value[i];
  }
  const signal: Sampled = sampledOf({ id: 'value', name, unit, quantity, rate, startNs, width: 1 }, placed);
  return { name: take, start, facts: [], signals: [signal] };
}

function aboutOf(metadata: FileMetaData): ParquetAbout | null {
  const text = metadata.key_value_metadata?.find((pair) => pair.key === 'farrier')?.value;
  if (!text) return null;
  const { name, unit, quantity, rate, startNs, length, take, start } = JSON.parse(text) as ParquetAbout;
  const whole = typeof name === 'string' && rate?.num > 0 && rate.den > 0 && Number.isFinite(startNs);
  return whole ? { name, unit: String(unit), quantity: String(quantity ?? ''), rate, startNs, length, take: String(take ?? name), start: start ?? null } : null; // prettier-ignore
}

function metadataOf(source: Source): FileMetaData {
  const end = source.read(Math.max(0, source.length - 8), 8);
  const length = end.length === 8 ? new DataView(end.buffer, end.byteOffset).getUint32(0, true) : NaN;
  if (!(length <= Math.min(DESCRIPTION_MOST, source.length - 12)))
    throw damaged(source.name, 'It has no end: a part of it is missing.', 'Copy it again.');
  const tail = new Uint8Array(source.read(source.length - 8 - length, length + 8));
  const metadata = parquetMetadata(tail.buffer);
  const rows = metadata.row_groups.reduce((sum, g) => sum + Number(g.num_rows), 0);
  if (!Array.isArray(metadata.schema) || metadata.schema.length < 2 || rows !== Number(metadata.num_rows))
    throw damaged(source.name, 'Its description does not fit its groups of rows.', 'Copy it again.');
  return metadata;
}

/** All values of a column; NaN for those that are missing. */
function columnOf(source: Source, metadata: FileMetaData, column: SchemaElement, rows: number): Float64Array {
  const schemaPath = getTreePath(parquetSchema(metadata), [column.name]);
  const out = new Float64Array(rows).fill(NaN);
  let row = 0;
  for (const group of metadata.row_groups) {
    const part = group.columns.find((c) => c.meta_data?.path_in_schema[0] === column.name)?.meta_data;
    if (!part) throw damaged(source.name, `Column ${column.name} is missing in a group of rows.`, 'Copy it again.'); // prettier-ignore
    const at = Number(part.dictionary_page_offset || part.data_page_offset);
    const count = Number(part.total_compressed_size);
    if (!(at >= 4 && count >= 0 && at + count <= source.length && Number(part.total_uncompressed_size) <= GROUP_MOST))
      throw damaged(source.name, `Column ${column.name} points beyond the file.`, 'Copy it again.'); // prettier-ignore
    const bytes = new Uint8Array(source.read(at, count));
    const { data } = readColumn(
      { view: new DataView(bytes.buffer), offset: 0 },
      { groupStart: row, groupRows: Number(group.num_rows), selectStart: 0, selectEnd: Number(group.num_rows) },
      { ...part, pathInSchema: [column.name], element: column, schemaPath, parsers: PLAIN, compressors } as never,
    ); // prettier-ignore
    let n = row;
    for (const chunk of data)
      for (let i = 0; i < chunk.length && n < row + Number(group.num_rows); i++) {
        const value = (chunk as ArrayLike<unknown>)[i];
        out[n++] = value === null || value === undefined ? NaN : Number(value);
      }
    row += Number(group.num_rows);
  }
  return out;
}

/** Instants stay the numbers that they are written as. */
const PLAIN = {
  ...DEFAULT_PARSERS,
  timestampFromMilliseconds: Number,
  timestampFromMicroseconds: Number,
  timestampFromNanoseconds: Number,
  dateFromDays: (days: number) => days * 86_400_000,
};
