import { DuckDBInstance } from '@duckdb/node-api';
import { tableFromIPC } from 'apache-arrow';
import fc from 'fast-check';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import wavefile from 'wavefile';
import { arrow } from '$core/formats/arrow/arrow';
import { hdf5 } from '$core/formats/hdf5/hdf5';
import { hdf5Library, mounted, Pieces } from '$core/formats/hdf5/place';
import { json } from '$core/formats/json/json';
import { parquet } from '$core/formats/parquet/parquet';
import { sigmf } from '$core/formats/sigmf/sigmf';
import { tarFiles } from '$core/formats/sigmf/tar';
import { wav } from '$core/formats/wav/wav';
import type { FormatKind } from '$core/formats/format';
import { rateHz, startS, type Sampled } from '$core/samples/sampled';
import { all, filesIn, readBack, recording, signal, sourceOf, written } from './format-files';

const folder = mkdtempSync(join(tmpdir(), 'farrier-formats-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const plain = (kind: unknown) => kind as FormatKind;
const aboutOf = (s: Sampled) => [s.name, s.unit, s.quantity, s.width, s.rate.num / s.rate.den, startS(s)];

const samples = fc.array(fc.oneof(fc.float({ noDefaultInfinity: true, noNaN: true }), fc.constant(NaN)), { minLength: 2, maxLength: 60 }); // prettier-ignore
const name = fc.string({ minLength: 1, maxLength: 24, unit: 'grapheme' }).filter((s) => s.trim() === s && !/\p{Cc}/u.test(s)); // prettier-ignore

describe('what is written is read again', () => {
  test.each([plain(json), plain(hdf5)])(
    '$title: every sample to its last bit, gaps, names, units, exact rates, starts, complex ones, facts',
    async (format) => {
      await format.prepare?.();
      await fc.assert(
        fc.asyncProperty(samples, name, fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 1000 }), fc.nat(1e12), async (list, called, num, den, startNs) => {
          const pairs = list.slice(0, list.length - (list.length % 2));
          const signals = [
            signal(called, list, { rate: { num, den }, startNs }),
            signal('Band', pairs, { width: 2, unit: 'V', quantity: '' }),
            signal('Deck', [1, 2], { unit: 'm/s²', quantity: 'acceleration' }),
          ];
          const of = recording(signals, { name: called });
          const back = readBack(format, await written(format, of));
          expect(back.signals.map(aboutOf)).toEqual(signals.map(aboutOf));
          expect(back.signals.map(all)).toEqual(signals.map(all));
          expect([back.name, back.start, back.facts]).toEqual([of.name, of.start, of.facts]);
        }),
        { numRuns: 40 },
      ); // prettier-ignore
    },
  );

  test('JSON: fewer digits are fewer digits, and the file says what else is known of a channel', async () => {
    const of = recording([signal('Tie', [1.23456789, NaN])], { about: new Map([['Tie', [['Calibration', 'on 2 Feb']]]]) }); // prettier-ignore
    const file = JSON.parse(new TextDecoder().decode(await written(plain(json), of, { digits: 4 }))) as { signals: { values: number[]; about: object }[] }; // prettier-ignore
    expect(file.signals[0]).toMatchObject({ values: [1.235, null], about: { Calibration: 'on 2 Feb' } });
  });

  test('JSON of another layout is refused with the place, text that is none with its position', () => {
    const read = (text: string) => readBack(plain(json), new TextEncoder().encode(text));
    expect(() => read('{"format":"farrier-recording","version":1,"name":"a","signals":[{"name":"x","rate":{"num":0,"den":1},"values":[]}]}')).toThrow(/signals\.0\.rate\.num/); // prettier-ignore
    expect(() => read('{"format":')).toThrow(/no JSON/);
  });

  test('Parquet: in a folder by job, take and channel; missing samples have no row and come back as gaps', async () => {
    await fc.assert(
      fc.asyncProperty(samples, fc.integer({ min: 1, max: 100_000 }), fc.nat(1e11), async (list, num, startNs) => {
        const signals = [signal('Tie rod', list, { rate: { num, den: 7 }, startNs })];
        const files = filesIn(await written(plain(parquet), recording(signals, { job: 'Quay 4/5' })));
        expect(Object.keys(files)).toEqual(['job=Quay 4%2F5/take=Ebb run/channel=Tie rod/samples.parquet']);
        const back = readBack(plain(parquet), Object.values(files)[0]);
        expect(back.signals.map(aboutOf)).toEqual(signals.map(aboutOf));
        expect(back.signals.map(all)).toEqual(signals.map(all));
        expect([back.name, back.start]).toEqual(['Ebb run', '2027-03-14T14:03:07.250Z']);
      }),
      { numRuns: 40 },
    ); // prettier-ignore
  });

  test('SigMF: complex and real, gaps as annotated zeros', async () => {
    await fc.assert(
      fc.asyncProperty(samples, fc.integer({ min: 1, max: 20_000_000 }), async (list, num) => {
        const pairs = list.slice(0, list.length - (list.length % 2));
        // A sample with one part missing is missing.
        for (let i = 0; i < pairs.length; i += 2) if (Number.isNaN(pairs[i] + pairs[i + 1])) pairs[i] = pairs[i + 1] = NaN; // prettier-ignore
        const signals = [signal('Band', pairs, { width: 2, unit: 'V', rate: { num, den: 1 } }), signal('Tie rod', list, { rate: { num: 50, den: 1 } })]; // prettier-ignore
        const back = readBack(plain(sigmf), await written(plain(sigmf), recording(signals)));
        expect(back.signals.map(aboutOf)).toEqual(signals.map(aboutOf));
        expect(back.signals.map(all)).toEqual(signals.map(all));
        expect(back.start).toBe('2027-03-14T14:03:07.250Z');
      }),
      { numRuns: 40 },
    );
  });

  test('WAV of whole numbers: to half a step of its resolution, with names and units of its own chunk', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.float({ noNaN: true, min: -1000, max: 1000 }), { minLength: 1, maxLength: 50 }), fc.constantFrom(16, 24, 32), async (list, bits) => {
        const signals = [signal('Tie rod', list), signal('Deck', list.map((v) => v / 7), { unit: 'm/s²' })];
        const bytes = await written(plain(wav), recording(signals), { numbers: `${bits} bit` });
        const back = readBack(plain(wav), bytes);
        expect(back.signals.map((s) => [s.name, s.unit])).toEqual([['Tie rod', 'kN'], ['Deck', 'm/s²']]);
        back.signals.forEach((s, k) => {
          const most = Math.max(...all(signals[k]).map(Math.abs));
          const step = most / 2 ** (bits - 1);
          all(s).forEach((v, i) => expect(Math.abs(v - all(signals[k])[i])).toBeLessThanOrEqual(step + most * 2e-7));
        });
        // Another reader finds a plain file of that many bits.
        const other = new wavefile.WaveFile(bytes);
        expect([other.bitDepth, other.fmt]).toMatchObject([String(bits), { numChannels: 2, sampleRate: 2000 }]);
      }),
      { numRuns: 40 },
    ); // prettier-ignore
  });

  test('WAV with a description beside it is an archive of both', async () => {
    const files = filesIn(await written(plain(wav), recording([signal('Tie', [1, 2])]), { beside: 'a description', numbers: '16 bit' })); // prettier-ignore
    expect(Object.keys(files)).toEqual(['Ebb run.json', 'Ebb run.wav']);
    const { tracks } = JSON.parse(new TextDecoder().decode(files['Ebb run.json'])) as {
      tracks: { name: string; unit: string; scale: number }[];
    };
    expect(tracks[0]).toMatchObject({ name: 'Tie', unit: 'kN' });
    expect(tracks[0].scale).toBeCloseTo(2 * (32_768 / 32_767), 9);
  });
});

describe('other programs read the same', () => {
  test('Arrow: times, values, nulls where samples are missing, units in the schema; two rates are two streams', async () => {
    const values = Float32Array.from({ length: 150_000 }, (_, i) => (i % 11 === 3 ? NaN : i / 8));
    const bytes = await written(plain(arrow), recording([signal('Tie', values), signal('Deck', values.subarray(0, 149_000))])); // prettier-ignore
    const table = tableFromIPC(bytes);
    expect(table.numRows).toBe(150_000);
    expect(table.schema.fields.map((f) => [f.name, f.metadata.get('unit')])).toEqual([['time', 's'], ['Tie', 'kN'], ['Deck', 'kN']]); // prettier-ignore
    expect(table.schema.metadata.get('Blade set')).toBe('B7');
    expect(table.getChild('Tie')!.nullCount).toBe(values.filter(Number.isNaN).length);
    for (const i of [0, 3, 65_535, 65_536, 148_999, 149_999]) {
      expect(table.getChild('time')!.get(i)).toBe(i / 2000);
      expect(table.getChild('Tie')!.get(i)).toBe(Number.isNaN(values[i]) ? null : values[i]);
    }
    expect(table.getChild('Deck')!.get(149_500)).toBeNull();
    const files = filesIn(await written(plain(arrow), recording([signal('Tie', [1]), signal('Slow', [5], { rate: { num: 10, den: 1 } })]))); // prettier-ignore
    expect(Object.keys(files)).toEqual(['Ebb run 2000 per second.arrows', 'Ebb run 10 per second.arrows']);
  });

  test('Parquet folders of several takes are one table for a query engine', async () => {
    for (const [k, take] of ['Ebb 1', 'Ebb 2', "Ebb 3 'quoted'"].entries()) {
      const values = Float32Array.from({ length: 5000 }, (_, i) => (i % 100 === 7 ? NaN : k * 10 + (i % 50)));
      const files = filesIn(await written(plain(parquet), recording([signal('Tie rod', values), signal('Deck', [k, k + 1])], { name: take, job: 'Quay' }))); // prettier-ignore
      for (const [path, bytes] of Object.entries(files)) {
        mkdirSync(dirname(join(folder, path)), { recursive: true });
        writeFileSync(join(folder, path), bytes);
      }
    }
    const instance = await DuckDBInstance.create(':memory:');
    const connection = await instance.connect();
    const query = async (sql: string) => (await connection.runAndReadAll(sql)).getRowsJson();
    const all = `read_parquet('${folder}/*/*/*/*.parquet', hive_partitioning = true)`;
    expect(await query(`SELECT job, take, channel, count(*), max(value), max("time") FROM ${all} WHERE channel = 'Tie rod' GROUP BY ALL ORDER BY take`)).toEqual(
      [['Quay', 'Ebb 1', 'Tie rod', '4950', 49, 2.4995], ['Quay', 'Ebb 2', 'Tie rod', '4950', 59, 2.4995], ['Quay', "Ebb 3 'quoted'", 'Tie rod', '4950', 69, 2.4995]],
    ); // prettier-ignore
    // Metadata: the unit of each file.
    const pairs = await query(`SELECT DISTINCT decode(value) FROM parquet_kv_metadata('${folder}/*/*/channel=Deck/*.parquet') WHERE decode(key) = 'unit'`); // prettier-ignore
    expect(pairs).toEqual([['kN']]);
    connection.closeSync();
  });

  test('Parquet by another writer: packed, with missing values and instants, becomes signals on a grid', async () => {
    const instance = await DuckDBInstance.create(':memory:');
    const connection = await instance.connect();
    for (const codec of ['snappy', 'zstd', 'gzip', 'uncompressed']) {
      const file = join(folder, `${codec}.parquet`);
      await connection.run(`COPY (SELECT TIMESTAMP '2027-03-14 14:00:00' + INTERVAL (i * 20) MILLISECOND AS at, CASE WHEN i = 5 THEN NULL ELSE i * 0.5 END AS load, i::INTEGER AS count, 'word' AS remark FROM range(0, 3000) t(i) WHERE i <> 17) TO '${file}' (FORMAT parquet, CODEC '${codec}')`); // prettier-ignore
      const { readFileSync } = await import('node:fs');
      const back = readBack(plain(parquet), readFileSync(file));
      expect(back.start).toBe('2027-03-14T14:00:00.000Z');
      expect(back.signals.map((s) => [s.name, rateHz(s), s.length])).toEqual([['load', 50, 3000], ['count', 50, 3000]]); // prettier-ignore
      const [load, count] = back.signals.map(all);
      expect([load[4], load[5], load[17], load[2999], count[17], count[18]]).toEqual([2, NaN, NaN, 1499.5, NaN, 18]); // prettier-ignore
    }
    connection.closeSync();
  });

  test('SigMF by other writers: whole numbers of either end as shares of full scale, several channels, the band in the name', () => {
    const data = new DataView(new ArrayBuffer(16));
    [16_384, -32_768, 8192, 0, -16_384, 32_767, 0, 4096].forEach((v, i) => data.setInt16(i * 2, v, false));
    const meta = { global: { 'core:datatype': 'ci16_be', 'core:sample_rate': 1e6, 'core:num_channels': 2, 'core:version': '1.0.0' }, captures: [{ 'core:sample_start': 0, 'core:frequency': 868.3e6, 'core:datetime': '2027-01-01T00:00:00Z' }], annotations: [] }; // prettier-ignore
    const back = readBack(plain(sigmf), archive({ 'band/r.sigmf-meta': JSON.stringify(meta), 'band/r.sigmf-data': new Uint8Array(data.buffer) })); // prettier-ignore
    expect(back.signals.map((s) => [s.name, s.width, s.length, rateHz(s)])).toEqual([['r at 868.3 MHz 1', 2, 2, 1e6], ['r at 868.3 MHz 2', 2, 2, 1e6]]); // prettier-ignore
    expect(back.signals.map(all)).toEqual([[0.5, -1, -0.5, 32_767 / 32_768], [0.25, 0, 0, 0.125]]); // prettier-ignore
    expect(() => readBack(plain(sigmf), archive({ 'r.sigmf-meta': JSON.stringify(meta) }))).toThrow(
      /not in the archive/,
    );
    expect(() => readBack(plain(sigmf), archive({ 'r.sigmf-meta': JSON.stringify({ global: { 'core:datatype': 'rf16_le', 'core:sample_rate': 1 } }), 'r.sigmf-data': '' }))).toThrow(/rf16_le/); // prettier-ignore
  });

  beforeAll(() => hdf5.prepare!());
  test('HDF5 by another writer: named datasets, rates of attributes, times beside them, columns of a matrix', () => {
    const place = new Pieces();
    mounted(place, (path) => {
      const file = new (hdf5Library().File)(path, 'w');
      const run = file.create_group('run1');
      run.create_dataset({ name: 'time', data: Float64Array.from({ length: 100 }, (_, i) => 3 + i / 50) });
      const load = run.create_dataset({ name: 'load', data: Int16Array.from({ length: 100 }, (_, i) => i) });
      load.create_attribute('units', 'kN');
      const fast = file.create_dataset({ name: 'fast', data: Float32Array.from({ length: 40 }, (_, i) => i), shape: [20, 2] }); // prettier-ignore
      fast.create_attribute('sample_rate', 400);
      file.create_dataset({ name: 'remark', data: 'made elsewhere' });
      file.close();
    });
    const bytes = joinedPieces(place);
    const back = readBack(plain(hdf5), bytes);
    expect(back.signals.map((s) => [s.name, s.unit, rateHz(s), startS(s), s.length])).toEqual([['fast 1', '1', 400, 0, 20], ['fast 2', '1', 400, 0, 20], ['load', 'kN', 50, 3, 100]]); // prettier-ignore
    expect(all(back.signals[1]).slice(0, 3)).toEqual([1, 3, 5]);
    const [one] = readBack(plain(hdf5), bytes, { datasets: 'run1/load', rateHz: 10 }).signals;
    expect([one.name, rateHz(one), all(one).slice(0, 3)]).toEqual(['load', 10, [0, 1, 2]]);
    expect(() => readBack(plain(hdf5), bytes, { datasets: '/remark' })).toThrow(/no vector of numbers/);
  });
});

const joinedPieces = (place: Pieces) => Uint8Array.from(Buffer.concat([...place.taken()]));

/** An archive made header by header, apart from ours. */
function archive(files: Record<string, string | Uint8Array>): Uint8Array {
  const blocks = Object.entries(files).flatMap(([path, content]) => {
    const body = Buffer.from(content);
    const head = Buffer.alloc(512);
    head.write(path, 0);
    head.write('0000644\0', 100);
    head.write(`${body.length.toString(8).padStart(11, '0')}\0`, 124);
    head.write('        ', 148);
    head.write('0', 156);
    head.write('ustar\x0000', 257);
    head.write(`${head.reduce((a, b) => a + b, 0).toString(8).padStart(6, '0')}\0 `, 148); // prettier-ignore
    return [head, body, Buffer.alloc((512 - (body.length % 512)) % 512)];
  });
  return Buffer.concat([...blocks, Buffer.alloc(1024)]);
}

test('an archive says where it is broken', () => {
  const whole = archive({ 'a.sigmf-meta': '{}', 'a.sigmf-data': new Uint8Array(700) });
  expect(tarFiles(sourceOf(whole, 'a')).map((f) => [f.name, f.length])).toEqual([
    ['a.sigmf-meta', 2],
    ['a.sigmf-data', 700],
  ]);
  expect(() => tarFiles(sourceOf(whole.subarray(0, 1800), 'a'))).toThrow(/not whole at byte 1024/);
  const bent = Uint8Array.from(whole);
  bent[3] ^= 1;
  expect(() => tarFiles(sourceOf(bent, 'a'))).toThrow(/not whole at byte 0/);
});
