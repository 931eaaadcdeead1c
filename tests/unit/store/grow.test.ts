import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { growTake, reachedIn, type Growth } from '$store/take/grow';
import { TakeReader } from '$store/take/reader';
import { TakeWriter } from '$store/take/writer';

// A closed take that grows is the same as one that was written at once.
const folder = mkdtempSync(join(tmpdir(), 'farrier-grow-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;
const signal = (name: string) => ({ channelId: name, name, rawUnit: 'V', unit: 'V', group: 0, junction: null, conversion: IDENTITY, snapshot: null }); // prettier-ignore
function begun(signals: Float32Array[]): string {
  const path = join(folder, `${files++}.take`);
  const head = { id: 'x', jobId: 'j', job: 'J', number: 1, name: 'T', state: 'recording' as const, startNs: '0', lengthNs: null, facts: { Rows: 'some' }, plan: EMPTY_PLAN, planText: '', planName: '', folder: '', part: null, coreVersion: 1 }; // prettier-ignore
  const writer = new TakeWriter(path, { by: 'test', head, groups: [{ offsetNs: 0, rate: { num: 1, den: 60 } }], signals: signals.map((_, k) => signal(`S${k}`)) }); // prettier-ignore
  signals.forEach((values, k) => writer.append(k, 0, values));
  writer.commit();
  writer.close('complete', signals[0].length * 60e9);
  return path;
}
const growth = (first: number, signals: Float32Array[], more: Partial<Growth> = {}): Growth => ({ runs: signals.length ? [{ first, signals }] : [], gaps: [], notes: [], facts: {}, reached: first, ...more }); // prettier-ignore
const wave = (n: number, k: number) => Float32Array.from({ length: n }, (_, i) => Math.fround(Math.sin((i + k) / 7) * (1 + k) + i / 1000)); // prettier-ignore
const seen = (path: string) => {
  const reader = new TakeReader(path);
  try {
    const { length } = reader.signals[0];
    return {
      length,
      seconds: reader.durationS,
      values: reader.signals.map((s) => reader.values(s.id, 0, length)),
      windows: reader.signals.map((s) => [1, 7, 60, 900].map((n) => reader.window(s.id, 0, length, n))),
      seal: reader.sealState().state,
      gaps: reader.gaps(),
      facts: reader.head.facts,
    };
  } finally {
    reader.close();
  }
};

describe('growing', () => {
  test('in whatever pieces: samples and overview are those of one that was written at once, sealed', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40_000 }),
        fc.array(fc.oneof(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 300, max: 30_000 })), { minLength: 1, maxLength: 4 }), // prettier-ignore
        (n, more) => {
          const total = n + more.reduce((a, b) => a + b, 0);
          const all = [wave(total, 0), wave(total, 3)];
          const path = begun(all.map((w) => w.slice(0, n)));
          let at = n;
          for (const count of more) {
            growTake(path, 'test', growth(at, all.map((w) => w.slice(at, at + count)))); // prettier-ignore
            at += count;
          }
          const one = seen(begun(all));
          expect(seen(path)).toEqual({ ...one, seal: 'sealed' });
        },
      ),
      { numRuns: 25 },
    );
  });
  test('a jump is a gap with its reason; facts, notes and how far it is read come with the samples', () => {
    const path = begun([wave(100, 0)]);
    expect(reachedIn(path)).toBeNull();
    growTake(path, 'test', growth(110, [wave(5, 1)], { gaps: [{ first: 100, count: 10, reason: 'none came' }], notes: [{ offsetNs: 6e12, kind: 'event', says: 'none came' }], facts: { Rows: 'more' }, reached: 42 })); // prettier-ignore
    const { length, seconds, values, gaps, facts, seal } = seen(path);
    expect([length, seconds, seal]).toEqual([115, 115 * 60, 'sealed']);
    expect([...values[0].subarray(100, 110)].every(Number.isNaN)).toBe(true);
    expect([...values[0].subarray(110)]).toEqual([...wave(5, 1)]);
    expect(gaps).toMatchObject([{ fromS: 6000, toS: 6600, reason: 'none came' }]);
    expect(facts).toEqual({ Rows: 'more' });
    expect(reachedIn(path)).toBe(42);
    expect(reachedIn(join(folder, 'none.take'))).toBeNull();
  });
  test('samples that would lie over others are refused, and nothing is changed', () => {
    const path = begun([wave(100, 0)]);
    const before = seen(path);
    expect(() => growTake(path, 'test', growth(99, [wave(5, 1)], { reached: 7 }))).toThrow(/there already/);
    expect(seen(path)).toEqual(before);
    expect(reachedIn(path)).toBeNull();
  });
  test('a disk that takes all but the last of it changes nothing', () => {
    const path = begun([wave(20_000, 0)]);
    const db = new Sqlite(path);
    db.exec(
      "CREATE TRIGGER full BEFORE INSERT ON seal BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END",
    );
    db.close();
    const before = seen(path);
    expect(() => growTake(path, 'test', growth(20_000, [wave(5, 1)], { reached: 7 }))).toThrow(/cannot grow/);
    expect(seen(path)).toEqual(before);
    expect(reachedIn(path)).toBeNull();
  });
  test('one that somebody changed is not sealed over: it grows no more', () => {
    const path = begun([wave(100, 0)]);
    const db = new Sqlite(path);
    db.prepare('UPDATE block SET data = ? WHERE signal = 0').run(Buffer.alloc(400));
    db.close();
    expect(() => growTake(path, 'test', growth(100, [wave(5, 1)]))).toThrow(/changed since it was sealed/);
    expect(seen(path).seal).toBe('changed');
  });
});
