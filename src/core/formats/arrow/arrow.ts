import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, sampleS, type Sampled } from '../../samples/sampled';
import type { FormatKind } from '../format';
import { FileNames } from '../file-names';

const writing = z.strictObject({});
/** Rows that are written as one record batch. */
const ROWS = 1 << 16;

type Library = typeof import('apache-arrow');
let library: Library | null = null;

/** Apache Arrow IPC stream (columnar format 1.x): a column of seconds, then one a channel in single precision, its unit in the field's metadata, missing samples as
 *  nulls; channels of different rates are streams of their own. */
export const arrow: FormatKind<typeof writing> = {
  kind: 'arrow',
  title: 'Arrow stream, for programs',
  extensions: ['arrows'],
  mediaType: 'application/vnd.apache.arrow.stream',
  cannotCarry: 'Marks, mendings and the raw values stay in the take; channels of several rates come as one stream for each rate, in an archive.', // prettier-ignore
  prepare: async () => (library ??= await import('apache-arrow')),
  writing: {
    sentence: { schema: writing, template: () => 'A row for each sample, with its time.' },
    defaults: {},
    *write({ name, start, facts, signals }) {
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const groups = new Map<string, Sampled[]>();
      for (const s of signals) {
        const key = `${s.rate.num}/${s.rate.den} ${s.startNs}`;
        groups.set(key, [...(groups.get(key) ?? []), s]);
      }
      const names = new FileNames();
      for (const group of groups.values()) {
        if (groups.size > 1)
          yield {
            file: names.of(`${name} ${Number(rateHz(group[0]).toPrecision(6))} per second`, '.arrows'),
          };
        yield* stream(group, new Map([['name', name], ['start', start ?? ''], ...facts]));
      }
    },
  },
};

/** One stream of signals on the same grid. */
function* stream(signals: Sampled[], metadata: Map<string, string>): Generator<Uint8Array> {
  const { Schema, Field, Float64, Float32, RecordBatch, RecordBatchStreamWriter, Struct, makeData } = library!; // prettier-ignore
  const schema = new Schema(
    [
      new Field('time', new Float64(), false, new Map([['unit', 's']])),
      ...signals.map((s) => new Field(s.name, new Float32(), true, new Map([['unit', s.unit], ['quantity', s.quantity]]))), // prettier-ignore
    ],
    metadata,
  );
  const made: Uint8Array[] = [];
  /** Its messages are taken as they are made. */
  class Messages extends RecordBatchStreamWriter {
    protected override _write(chunk: ArrayBufferView) {
      const bytes = new Uint8Array(chunk.buffer as ArrayBuffer, chunk.byteOffset, chunk.byteLength).slice();
      if (bytes.length > 0) made.push(bytes);
      (this as unknown as { _position: number })._position += bytes.length;
      return this;
    }
  }
  const writer = new Messages();
  writer.reset(undefined, schema);
  const length = Math.max(...signals.map((s) => s.length));
  for (let at = 0; at < length || at === 0; at += ROWS) {
    const n = Math.min(ROWS, length - at);
    const time = Float64Array.from({ length: n }, (_, i) => sampleS(signals[0], at + i));
    const columns = signals.map((s) => {
      const values = new Float32Array(n).fill(NaN);
      if (at < s.length) values.set(s.read(at, Math.min(n, s.length - at)));
      const { bitmap, missing } = validity(values);
      return makeData({ type: new Float32(), length: n, nullCount: missing, nullBitmap: missing ? bitmap : undefined, data: values }); // prettier-ignore
    });
    const data = makeData({
      type: new Struct(schema.fields),
      length: n,
      nullCount: 0,
      children: [makeData({ type: new Float64(), length: n, nullCount: 0, data: time }), ...columns],
    });
    writer.write(new RecordBatch(schema, data) as never);
    yield* made.splice(0);
  }
  writer.finish();
  yield* made.splice(0);
}

/** A bit for each sample that there is, lowest first. */
function validity(values: Float32Array): { bitmap: Uint8Array; missing: number } {
  const bitmap = new Uint8Array((values.length + 7) >> 3);
  let missing = 0;
  for (let i = 0; i < values.length; i++)
    if (Number.isNaN(values[i])) missing++;
    else bitmap[i >> 3] |= 1 << (i & 7);
  return { bitmap, missing };
}
