import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, expect, test } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { recoverTake } from '$store/take/recover';
import { TakeReader } from '$store/take/reader';
import { TakeWriter, type TakeSetup } from '$store/take/writer';

const folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;
const newFile = () => join(folder, `${files++}.take`);

const setup: TakeSetup = {
  by: 'test',
  head: {
    id: 'x',
    jobId: 'j',
    job: 'J',
    number: 1,
    name: 'T',
    state: 'recording',
    startNs: '0',
    lengthNs: null,
    facts: {},
    plan: EMPTY_PLAN,
    planText: '',
    planName: '',
    folder: '',
    part: null,
    coreVersion: 1,
  },
  groups: [{ offsetNs: 0, rate: { num: 1000, den: 1 } }],
  signals: [
    {
      channelId: 'c',
      name: 'S',
      rawUnit: 'V',
      unit: 'V',
      group: 0,
      junction: null,
      conversion: IDENTITY,
      snapshot: null,
    },
  ],
};

/** Writes values with NaN as gaps (never appended), in pieces, committing now and then. */
function write(values: Float32Array, pieces: number[], close: boolean): string {
  const path = newFile();
  const writer = new TakeWriter(path, setup);
  let at = 0;
  for (let k = 0; at < values.length; k++) {
    const end = Math.min(values.length, at + pieces[k % pieces.length]);
    let from = at;
    for (let i = at; i <= end; i++) {
      if (i < end && !Number.isNaN(values[i])) continue;
      if (i > from) writer.append(0, from, values.slice(from, i));
      from = i + 1;
    }
    at = end;
    if (k % 3 === 0) writer.commit();
  }
  writer.commit();
  if (close) writer.close('complete', values.length * 1e6);
  return path;
}

const signal = (n: number, gapAt: number, gap: number) =>
  Float32Array.from({ length: n }, (_, i) => (i >= gapAt && i < gapAt + gap ? NaN : Math.sin(i / 37) * i));

/** Sample by sample; far quicker than a comparison that could print the difference. */
const same = (a: Float32Array, b: Float32Array) =>
  a.length === b.length && a.every((v, i) => Object.is(v, b[i]));

/** The window as a simple loop would find it, in the buckets the file uses. */
function extremes(values: Float32Array, first: number, end: number) {
  let min = NaN;
  let max = NaN;
  for (let i = first; i < end; i++) {
    if (Number.isNaN(values[i])) continue;
    if (!(values[i] >= min)) min = values[i];
    if (!(values[i] <= max)) max = values[i];
  }
  return { min, max };
}

test('whatever pieces it is written in, a take gives back every sample, and NaN where there was none', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 60_000 }),
      fc.array(fc.integer({ min: 1, max: 20_000 }), { minLength: 1, maxLength: 4 }),
      fc.nat(50_000),
      fc.nat(9000),
      (n, pieces, gapAt, gap) => {
        const values = signal(n, gapAt, gap);
        const take = new TakeReader(write(values, pieces, true));
        const stored = take.signals[0].length;
        expect(same(take.raw(0, 0, n), values)).toBe(true);
        const lastValue = values.findLastIndex((v) => !Number.isNaN(v));
        expect(stored).toBe(lastValue + 1);
        take.close();
      },
    ),
    { numRuns: 25 },
  );
});

test.each([
  [100, 50],
  [20_000, 1200],
  [400_000, 1200],
  [3_000_000, 300],
])('the extremes of %d samples in %d buckets lose no peak, at any zoom', (n, buckets) => {
  const values = signal(n, Math.floor(n / 2), Math.floor(n / 100));
  const take = new TakeReader(write(values, [17_000], true));
  for (const [from, to] of [
    [0, n],
    [Math.floor(n * 0.3), Math.floor(n * 0.7)],
    [Math.floor(n * 0.9), n],
  ]) {
    const got = take.window(0, from, to, buckets);
    const all = extremes(values, from, to);
    const low = Math.min(...got.min.filter((v) => !Number.isNaN(v)));
    const high = Math.max(...got.max.filter((v) => !Number.isNaN(v)));
    // A bucket at the edge may reach up to one finer bucket outside; inside nothing may be missing.
    expect(low).toBeLessThanOrEqual(all.min);
    expect(high).toBeGreaterThanOrEqual(all.max);
    expect(got.min.length).toBeLessThanOrEqual(buckets);
    expect(got.min.length).toBeGreaterThan(Math.min(buckets, to - from) / 16);
  }
  take.close();
});

test('a take left open by a crash is closed as interrupted, with the same extremes as one closed properly', () => {
  for (const n of [10, 5000, 40_000, 700_000]) {
    const values = signal(n, 3000, 500);
    const crashed = write(values, [4000], false);
    const proper = new TakeReader(write(values, [4000], true));
    expect(recoverTake(crashed)).toMatchObject({ state: 'interrupted', lengthNs: n * 1e6 });
    const reopened = new TakeReader(crashed);
    expect(reopened.head.state).toBe('interrupted');
    expect(reopened.notes().at(-1)!.kind).toBe('interrupted');
    expect(same(reopened.raw(0, 0, n), values)).toBe(true);
    expect(reopened.window(0, 0, n, 100)).toEqual(proper.window(0, 0, n, 100));
    expect(recoverTake(crashed).state).toBe('interrupted');
  }
});

test('a file that is no take is refused in words', () => {
  expect(() => new TakeReader(join(folder, 'none.take'))).toThrow(/There is no take file/);
  expect(() => new TakeReader(new URL(import.meta.url).pathname)).toThrow(/cannot be read|no take/);
});
