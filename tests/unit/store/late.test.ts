import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { TakeReader } from '$store/take/reader';
import { recoverTake } from '$store/take/recover';
import { TakeWriter } from '$store/take/writer';

// Samples that come after later ones: a station that is fetched, a radio link that had dropped out.
let folder: string;
let files = 0;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'farrier-late-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const N = 60_000;
const VALUES = Float32Array.from({ length: N }, (_, i) => Math.sin(i / 37) * (1 + i / N));
type Piece = [first: number, end: number];

function write(
  pieces: Piece[],
  end: 'close' | 'kill' = 'close',
  gap?: Piece,
): { path: string; hash: string } {
  const path = join(folder, `${files++}.take`);
  const head = { id: 'x', jobId: 'j', job: 'J', number: 1, name: 'T', state: 'recording' as const, startNs: '1790000000000000000', lengthNs: null, facts: {}, plan: EMPTY_PLAN, planText: '', planName: '', folder: '', part: null, coreVersion: 1 }; // prettier-ignore
  const of = { channelId: 'c', name: 'S', rawUnit: 'V', unit: 'V', group: 0, junction: null, conversion: IDENTITY, snapshot: null }; // prettier-ignore
  const writer = new TakeWriter(path, { by: 't', head, groups: [{ offsetNs: 0, rate: { num: 1000, den: 1 } }], signals: [of, { ...of, name: 'B' }] }); // prettier-ignore
  if (gap) writer.gap(0, gap[0], gap[1] - gap[0], 'the link was lost');
  pieces.forEach(([from, to], k) => {
    writer.append(0, from, VALUES.subarray(from, to));
    if (k % 2) writer.commit();
  });
  writer.append(1, 0, VALUES);
  writer.commit();
  if (end === 'close') return { path, hash: writer.close('complete', N * 1e6) };
  writer.abandon();
  return { path, hash: '' };
}
const envelopeOf = (path: string) => {
  const db = new Sqlite(path, { readonly: true });
  const rows = db.prepare('SELECT level, first, count, hex(data) data FROM envelope WHERE signal = 0 ORDER BY level, first').all();
  db.close();
  return rows;
}; // prettier-ignore

test('in whatever order pieces come, the take is the same: samples, overview, seal', () => {
  const inOrder = write([[0, N]]);
  const expected = envelopeOf(inOrder.path);
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: 1, max: N - 1 }), { minLength: 1, maxLength: 9 }), fc.infiniteStream(fc.nat()), (cuts, dice) => {
      const ends = [0, ...cuts.sort((a, b) => a - b), N];
      const pieces = ends.slice(1).map((end, k): Piece => [ends[k], end]);
      const order = pieces.map((p) => ({ p, at: dice.next().value as number })).sort((a, b) => a.at - b.at).map(({ p }) => p);
      const { path } = write(order);
      const take = new TakeReader(path);
      expect(take.raw(0, 0, N)).toEqual(VALUES);
      expect(take.sealState().state).toBe('sealed');
      const [whole, part] = [take.window(0, 0, N, 100), take.window(0, 1234, 54_321, 77)];
      take.close();
      expect(envelopeOf(path)).toEqual(expected);
      const plain = new TakeReader(inOrder.path);
      expect([whole, part]).toEqual([plain.window(0, 0, N, 100), plain.window(0, 1234, 54_321, 77)]);
      plain.close();
    }),
    { numRuns: 12 },
  ); // prettier-ignore
});

test('what comes twice counts once, what overlaps fills what is free, and a gap that was filled is none', () => {
  const gap: Piece = [20_000, 30_000];
  const half = write([[0, 20_000], [30_000, N], [22_000, 26_000]], 'close', gap); // prettier-ignore
  const take = new TakeReader(half.path);
  expect(take.gaps().map((g) => g.reason)).toEqual(['the link was lost']);
  expect(take.raw(0, 22_000, 4000)).toEqual(VALUES.subarray(22_000, 26_000));
  expect(take.raw(0, 26_000, 4000).every(Number.isNaN)).toBe(true);
  take.close();
  const whole = write([[0, 20_000], [30_000, N], [22_000, 26_000], [15_000, 35_000], [0, N]], 'close', gap); // prettier-ignore
  const full = new TakeReader(whole.path);
  expect(full.gaps()).toEqual([]);
  expect(full.raw(0, 0, N)).toEqual(VALUES);
  expect(full.sealState().state).toBe('sealed');
  full.close();
});

test('killed after late samples came, the take is found with its overview right', () => {
  const { path } = write([[0, 10_000], [40_000, N], [10_000, 40_000]], 'kill'); // prettier-ignore
  recoverTake(path, 'killed');
  expect(envelopeOf(path)).toEqual(envelopeOf(write([[0, N]]).path));
  const take = new TakeReader(path);
  expect(take.head.state).toBe('interrupted');
  expect(take.sealState().state).toBe('sealed');
  expect(take.raw(0, 0, N)).toEqual(VALUES);
  take.close();
});
