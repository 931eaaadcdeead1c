import { ByteWriter, ParquetWriter, type SchemaElement } from 'hyparquet-writer';
import { sampleS, type Sampled } from '../../samples/sampled';
import type { Recording } from '../format';
import type { ParquetAbout } from './about';

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
    statistics: true,
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
    void writer.write({
      columnData: [
        { name: 'time', data: time, type: 'DOUBLE', encoding: 'PLAIN', statistics: true },
        { name: 'value', data: value, type: 'FLOAT', encoding: 'PLAIN', statistics: true },
      ],
      rowGroupSize: ROWS,
      pageSize: ROWS,
    });
    yield take();
  }
  void writer.finish();
  yield take();
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
