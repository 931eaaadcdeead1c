import { ByteWriter, ParquetWriter, type SchemaElement } from 'hyparquet-writer';
import { writePageHeader } from 'hyparquet-writer/src/datapage.js';
import { sampleS, type Sampled } from '../../samples/sampled';
import type { Recording } from '../format';
import type { ParquetAbout } from './about';

/** What the file says of a column of a group. */
type ColumnChunk = ParquetWriter['row_groups'][number]['columns'][number];
/** Rows of a group. */
const ROWS = 1 << 20;

const SCHEMA: SchemaElement[] = [
  { name: 'root', num_children: 2 },
  { name: 'time', type: 'DOUBLE', repetition_type: 'REQUIRED' },
  { name: 'value', type: 'FLOAT', repetition_type: 'REQUIRED' },
];

/** A channel as a file of its own. */
export function* fileOf(recording: Recording, signal: Sampled): Generator<Uint8Array> {
  const { name, start, facts, about, job } = recording;
  const { unit, quantity, rate, startNs, length } = signal;
  const own: ParquetAbout = { name: signal.name, unit, quantity, rate, startNs, length, take: name, start };
  const bytes = new ByteWriter(ROWS * 12 + (1 << 16));
  const pairs: [string, string][] = [['farrier', JSON.stringify(own)], ['unit', unit], ['job', job ?? ''], ...facts, ...(about?.get(signal.id) ?? [])]; // prettier-ignore
  const writer = new ParquetWriter({
    writer: bytes,
    schema: SCHEMA,
    codec: 'UNCOMPRESSED',
    statistics: false,
    createdBy: 'Farrier',
    kvMetadata: pairs.map(([key, value]) => ({ key, value })),
  });
  const take = () => {
    const out = bytes.getBytes().slice();
    bytes.index = 0;
    return out;
  };
  for (let at = 0; at < length; at += ROWS) {
    const { time, value } = rowsOf(signal, at, Math.min(ROWS, length - at));
    if (value.length === 0) continue;
    const count = BigInt(value.length);
    const from = bytes.offset;
    const columns = [
      pageOf(bytes, 'time', 'DOUBLE', time, { min: time[0], max: time[time.length - 1] }),
      pageOf(bytes, 'value', 'FLOAT', value, endsOf(value)),
    ];
    const size = BigInt(bytes.offset - from);
    writer.row_groups.push({ columns, total_byte_size: size, num_rows: count, total_compressed_size: size });
    writer.num_rows += count;
    yield take();
  }
  void writer.finish();
  yield take();
}

/** A column of a group of rows as one page, its numbers as they lie in memory (PLAIN, little end first): the library’s own way goes value by value. */
function pageOf(bytes: ByteWriter, name: string, type: 'DOUBLE' | 'FLOAT', values: Float32Array | Float64Array, { min, max }: { min: number; max: number }): ColumnChunk {
  const at = bytes.offset;
  const rows = values.length;
  const raw = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  const page = { num_values: rows, num_nulls: 0, num_rows: rows, encoding: 'PLAIN' as const, definition_levels_byte_length: 0, repetition_levels_byte_length: 0, is_compressed: false };
  writePageHeader(bytes, { type: 'DATA_PAGE_V2', uncompressed_page_size: raw.length, compressed_page_size: raw.length, data_page_header_v2: page });
  bytes.appendBytes(raw);
  const size = BigInt(bytes.offset - at);
  return {
    file_offset: BigInt(at),
    meta_data: { type, encodings: ['PLAIN'], path_in_schema: [name], codec: 'UNCOMPRESSED', num_values: BigInt(rows), total_compressed_size: size, total_uncompressed_size: size, data_page_offset: BigInt(at), statistics: { min_value: min, max_value: max, null_count: 0n } },
  };
} // prettier-ignore

function endsOf(values: Float32Array): { min: number; max: number } {
  let min = Infinity;
  let max = -Infinity;
  for (const v of values) {
    if (v < min) min = v;
    if (v > max) max = v;
  }
  return { min, max };
}

/** Times and values of the samples that there are. */
function rowsOf(signal: Sampled, at: number, count: number): { time: Float64Array; value: Float32Array } {
  const values = signal.read(at, count);
  const time = new Float64Array(count);
  const value = new Float32Array(count);
  let n = 0;
  for (let i = 0; i < count; i++) {
    if (Number.isNaN(values[i])) continue;
    time[n] = sampleS(signal, at + i);
    value[n++] = values[i];
  }
  return { time: time.subarray(0, n), value: value.subarray(0, n) };
}
