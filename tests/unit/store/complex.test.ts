import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { IDENTITY, linearConversion, type Conversion } from '$core/conversion/conversion';
import { realParts } from '$core/samples/parts';
import { magnitudes } from '$core/signal/magnitude';
import { correctTake } from '$store/take/correct';
import { TakeReader } from '$store/take/reader';
import { recoverTake } from '$store/take/recover';
import { TakeWriter } from '$store/take/writer';
import { head } from '../rig';

// Samples of a receiver: in phase and in quadrature, two numbers each, beside a plain signal of the same rate.
let folder: string;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'farrier-complex-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

let files = 0;
const begin = (conversion: Conversion = IDENTITY) => {
  const path = join(folder, `${files++}.take`);
  const own = { channelId: 'c', rawUnit: 'V', unit: 'V', group: 0, junction: null, snapshot: null };
  const writer = new TakeWriter(path, {
    by: 'test',
    head: head({}),
    groups: [{ offsetNs: 0, rate: { num: 1000, den: 1 } }],
    signals: [
      { ...own, name: 'Carrier', width: 2, conversion },
      { ...own, name: 'Plain', channelId: 'p', conversion: IDENTITY },
    ],
  });
  return { path, writer };
};
/** A carrier that turns once in 50 samples, its magnitude rising by 1 in 1000. */
const carrier = (first: number, count: number) =>
  Float32Array.from({ length: 2 * count }, (_, i) => {
    const k = first + (i >> 1);
    const angle = (2 * Math.PI * k) / 50;
    return (1 + k / 1000) * (i % 2 ? Math.sin(angle) : Math.cos(angle));
  });
const plain = (first: number, count: number) => Float32Array.from({ length: count }, (_, i) => first + i);

/** Writes both in pieces of so many samples, up to `n`. */
function written(n: number, pieces: number[]): string {
  const { path, writer } = begin();
  for (let at = 0, k = 0; at < n; k++) {
    const count = Math.min(n - at, pieces[k % pieces.length]);
    writer.append(0, at, carrier(at, count));
    writer.append(1, at, plain(at, count));
    writer.commit();
    at += count;
  }
  writer.close('complete', n * 1e6);
  return path;
}
/** Opens a take for a moment. */
function reading<T>(path: string, work: (take: TakeReader) => T): T {
  const take = new TakeReader(path);
  try {
    return work(take);
  } finally {
    take.close();
  }
}

describe('complex samples in a take', () => {
  test('come back as they were written, in whatever pieces, beside a plain signal', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 300, max: 9000 }), { minLength: 1, maxLength: 4 }), (pieces) => {
        const n = 21_000;
        reading(written(n, pieces), (take) => {
          expect(take.signals.map((s) => [s.width, s.length])).toEqual([[2, n], [1, n]]); // prettier-ignore
          for (const [first, count] of [
            [0, 5],
            [4094, 7],
            [n - 3, 3],
          ]) {
            expect(take.raw(0, first, count)).toEqual(carrier(first, count));
            expect(take.raw(1, first, count)).toEqual(plain(first, count));
          }
          expect(take.sealState().state).toBe('sealed');
        });
      }),
      { numRuns: 6 },
    );
  });

  test('their overview is that of the magnitude, near and far', () => {
    reading(written(60_000, [5000]), (take) => {
      for (const [first, end, buckets] of [
        [0, 60_000, 10],
        [1000, 1040, 40],
        [30_000, 50_000, 300],
      ]) {
        const { min, max } = take.window(0, first, end, buckets);
        expect(min).toHaveLength(buckets);
        for (let b = 0; b < buckets; b++) {
          // It grows steadily: its lowest is at the bucket's begin, its highest at its end; a level's bucket is 16, 256, … samples wide.
          const [from, to] = [
            first + ((end - first) * b) / buckets,
            first + ((end - first) * (b + 1)) / buckets,
          ];
          const room = (end - first) / buckets / 1000 + 1e-3;
          expect(Math.abs(min[b] - (1 + from / 1000))).toBeLessThan(room);
          expect(Math.abs(max[b] - (1 + to / 1000))).toBeLessThan(room);
          expect(max[b]).toBeGreaterThanOrEqual(min[b]);
        }
      }
    });
  });

  test('gaps are missing in both parts; what comes late fills them, as if it had come in time', () => {
    const n = 12_000;
    const { path, writer } = begin();
    writer.append(0, 0, carrier(0, 5000));
    writer.append(0, 8000, carrier(8000, n - 8000));
    writer.commit();
    writer.append(0, 5000, carrier(5000, 2000));
    writer.close('complete', n * 1e6);
    reading(path, (take) => {
      expect(take.raw(0, 4999, 2001)).toEqual(carrier(4999, 2001));
      expect([...take.raw(0, 7000, 1000)].every(Number.isNaN)).toBe(true);
      expect(take.raw(0, 7999, 2).slice(2)).toEqual(carrier(8000, 1));
      const { min, max } = take.window(0, 4800, 7200, 24);
      expect(max[10]).toBeGreaterThan(6.8); // late samples stand in the overview, too
      expect(min[23]).toBeNaN();
      expect(take.sealState().state).toBe('sealed');
    });
  });

  test('a take that was cut off is closed with its overview and its seal', () => {
    const { path, writer } = begin();
    for (let at = 0; at < 30_000; at += 1500) {
      writer.append(0, at, carrier(at, 1500));
      writer.append(1, at, plain(at, 1500));
      writer.commit();
    }
    writer.abandon();
    expect(recoverTake(path).state).toBe('interrupted');
    reading(path, (take) => {
      expect(take.signal(0).length).toBe(30_000);
      const { max } = take.window(0, 0, 30_000, 10);
      expect(Math.abs(max[9] - 31)).toBeLessThan(0.1);
      expect(take.sealState().state).toBe('sealed');
    });
  });

  test('a factor scales both parts; an offset or a curve is refused, also later', () => {
    const { path, writer } = begin(linearConversion(4, 0));
    writer.append(0, 0, carrier(0, 100));
    writer.close('complete', 1e8);
    const four = carrier(0, 100).map((v) => 4 * v);
    reading(path, (take) => expect(take.values(0, 0, 100)).toEqual(four));
    for (const wrong of [
      linearConversion(1, 0.5),
      linearConversion(-1, 0),
      { ...IDENTITY, law: { kind: 'polynomial' as const, coefficients: [0, 1, 1] } },
    ]) {
      expect(() => begin(wrong)).toThrow(/factor above 0/);
      const wish = { signal: 0, unit: 'V', conversion: wrong, snapshot: null };
      expect(() => correctTake(path, [wish], 'why', 'Ada')).toThrow(/factor above 0/);
    }
    correctTake(
      path,
      [{ signal: 0, unit: 'mV', conversion: linearConversion(1000, 0), snapshot: null }],
      'unit',
      'Ada',
    );
    reading(path, (take) => {
      expect(take.values(0, 3, 1)[0]).toBeCloseTo(1000 * carrier(3, 1)[0], 2);
      expect(take.sealState().state).toBe('sealed'); // raw is untouched
    });
  });

  test('whoever turns complex samples into plain ones in the file breaks its seal', () => {
    const path = written(2000, [500]);
    const db = new Sqlite(path);
    db.exec('UPDATE signal SET width = 1 WHERE id = 0');
    db.close();
    reading(path, (take) => {
      const { state, changed } = take.sealState();
      expect(state).toBe('changed');
      expect(changed).toContain('samples of Carrier');
    });
  });

  test('formats that know real numbers only get both parts as signals; studies and painters see their length right', () => {
    reading(written(3000, [1000]), (take) => {
      const [i, q] = realParts(take.sampled(0));
      expect([i.name, q.name, i.width, i.length]).toEqual([
        'Carrier, in phase',
        'Carrier, in quadrature',
        1,
        3000,
      ]);
      const both = carrier(1200, 10);
      expect([...i.read(1200, 10)]).toEqual([...both].filter((_, k) => k % 2 === 0));
      expect([...q.read(1200, 10)]).toEqual([...both].filter((_, k) => k % 2 === 1));
      const real = take.sampled(1);
      expect(realParts(real)).toEqual([real]);
    });
  });
});

test('a magnitude is missing where either part is, and never negative', () => {
  const part = fc.float({ min: -(2 ** 60), max: 2 ** 60 });
  fc.assert(
    fc.property(fc.array(fc.tuple(part, part)), (all) => {
      const out = magnitudes(Float32Array.from(all.flat()), 2);
      expect(out).toHaveLength(all.length);
      all.forEach(([a, b], k) => {
        if (Number.isNaN(a) || Number.isNaN(b)) return expect(out[k]).toBeNaN();
        const wanted = Math.hypot(a, b);
        expect(Math.abs(out[k] - wanted)).toBeLessThanOrEqual(wanted * 1e-7 + 1e-38);
      });
    }),
  );
  const real = Float32Array.of(-1, NaN, 2);
  expect(magnitudes(real, 1)).toBe(real);
});
