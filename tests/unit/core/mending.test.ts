import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Block } from '$core/mending/mending';
import { MENDING_KINDS, mendAll, mended, mendingKind, type Mending } from '$core/mending/registry';
import { Random } from '$core/random';
import { sampledOf, type Sampled } from '$core/samples/sampled';

const signal = (values: ArrayLike<number>, hz = 10, startNs = 0): Sampled =>
  sampledOf(
    { id: 's', name: 'S', quantity: '', unit: 'kN', rate: { num: hz, den: 1 }, startNs, width: 1 },
    Float32Array.from(values),
  );
const of = (kind: string, settings: Record<string, unknown> = {}): Mending => ({
  kind,
  settings: { ...mendingKind(kind).defaults, ...settings },
});
/** All values after some mendings, and how many each changed. */
function after(source: Sampled, ...mendings: Mending[]) {
  const { steps, name, unit } = mendAll(mendings, source);
  const tallies = steps.map(() => ({ changed: 0 }));
  const out = new Float32Array(source.length).fill(-999);
  for (const { first, values } of mended(source, steps, tallies)) out.set(values, first);
  return { values: [...out], changed: tallies.map((t) => t.changed), name, unit };
}
/** The same step fed in blocks of one’s own. */
function inBlocks(values: number[], sizes: number[], mending: Mending): number[] {
  const step = mendingKind(mending.kind).mend(mending.settings, signal(values));
  const out = new Float32Array(values.length).fill(-999);
  function* blocks(): Generator<Block> {
    for (let first = 0, k = 0; first < values.length; k++) {
      const n = Math.min(sizes[k % sizes.length], values.length - first);
      yield { first, values: Float32Array.from(values.slice(first, first + n)) };
      first += n;
    }
  }
  let next = 0;
  for (const { first, values: own } of step.blocks!(blocks(), { changed: 0 })) {
    expect(first).toBe(next); // in their order, none twice
    out.set(own, first);
    next += own.length;
  }
  expect(next).toBe(values.length);
  return [...out];
}

describe('spikes', () => {
  const random = new Random(11);
  const noise = Array.from({ length: 500 }, () => 5 + 0.1 * random.gauss());
  const spiked = noise.map((v, i) => (i === 40 || i === 41 || i === 300 ? v + 50 : v));
  test('three samples of spikes are found, counted and bridged; the noise stays to the bit', () => {
    const { values, changed } = after(signal(spiked), of('spikes', { times: 8 }));
    expect(changed).toEqual([3]);
    values.forEach((v, i) => {
      if (i === 40 || i === 41 || i === 300) expect(v).toBeCloseTo(5, 0);
      else expect(v).toBe(Math.fround(noise[i]));
    });
  });
  test('or they are missing afterwards', () => {
    const { values } = after(signal(spiked), of('spikes', { times: 8, by: 'nothing: they are missing' }));
    expect(values.flatMap((v, i) => (Number.isNaN(v) ? [i] : []))).toEqual([40, 41, 300]);
  });
  test('a step is no spike, nor is what stays nearer than the least', () => {
    const step = Array.from({ length: 100 }, (_, i) => (i < 50 ? 0 : 10));
    expect(after(signal(step), of('spikes')).changed).toEqual([0]);
    expect(after(signal(spiked), of('spikes', { times: 8, least: 60 })).changed).toEqual([0]);
  });
  test('a spike at the very first and last sample has nothing to be bridged with: it is missing', () => {
    const values = noise.map((v, i) => (i === 0 || i === 499 ? 99 : v));
    const mended = after(signal(values), of('spikes', { times: 8 })).values;
    expect([mended[0], mended[499]]).toEqual([NaN, NaN]);
  });
  test('gaps stay gaps: they are no spikes, and no line goes over them', () => {
    const gappy = spiked.map((v, i) => (i >= 35 && i < 40 ? NaN : v));
    const { values, changed } = after(signal(gappy), of('spikes', { times: 8 }));
    expect(changed).toEqual([3]);
    expect(values.slice(35, 42).every(Number.isNaN)).toBe(true);
  });
});

describe('drop-outs', () => {
  test('up to n samples are bridged, longer ones stay, at the ends nothing is made up', () => {
    const values = [NaN, 1, NaN, NaN, 4, NaN, NaN, NaN, 8, NaN];
    expect(after(signal(values), of('bridge', { most: 2 }))).toMatchObject({
      values: [NaN, 1, 2, 3, 4, NaN, NaN, NaN, 8, NaN],
      changed: [2],
    });
    expect(after(signal(values), of('bridge', { most: 3 })).values).toEqual([
      NaN,
      1,
      2,
      3,
      4,
      5,
      6,
      7,
      8,
      NaN,
    ]);
  });
});

test('what a mending makes does not depend on the blocks it is fed in', () => {
  const sample = fc.oneof({ weight: 4, arbitrary: fc.integer({ min: -3, max: 3 }) }, { weight: 1, arbitrary: fc.constant(NaN) }, { weight: 1, arbitrary: fc.constant(1000) }); // prettier-ignore
  const kinds = [of('spikes', { window: 7 }), of('spikes', { window: 5, by: 'nothing: they are missing' }), of('bridge', { most: 3 }), of('missing', { from: 0.4, to: 1.1 }), of('drift', { last: 2 })]; // prettier-ignore
  fc.assert(
    fc.property(
      fc.array(sample, { minLength: 20, maxLength: 60 }),
      fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 }),
      fc.constantFrom(...kinds),
      (values, sizes, mending) => {
        expect(inBlocks(values, sizes, mending)).toEqual(inBlocks(values, [1000], mending));
      },
    ),
    { numRuns: 300 },
  );
});

test('a span that is called missing is missing from its first sample to the one before its end', () => {
  const { values, changed } = after(signal([0, 1, 2, 3, 4, 5]), of('missing', { from: 0.2, to: 0.4 }));
  expect(values).toEqual([0, 1, NaN, NaN, 4, 5]);
  expect(changed).toEqual([2]);
  expect(() => after(signal([1, 2]), of('missing', { from: 9, to: 10 }))).toThrow(/no sample/);
  expect(() => after(signal([1, 2]), of('missing', { from: 1, to: 1 }))).toThrow(/after the start/);
});

test('a drift along a straight line between two moments is taken off, also of a channel that starts late', () => {
  const line = Array.from({ length: 21 }, (_, i) => 7 + 2 + 0.5 * (i / 10 + 1));
  const mendedValues = after(
    signal(line, 10, 1e9),
    of('drift', { first: 2, from: 0, last: 3, to: 2 }),
  ).values;
  for (const v of mendedValues) expect(v).toBeCloseTo(7, 5);
});

test('offset, polarity, unit and name, one after the other, in the order they were made', () => {
  const { values, unit, name } = after(
    signal([1, 2]),
    of('offset', { value: 0.5 }),
    of('polarity'),
    of('unit', { to: 'N' }),
    of('rename', { name: 'Lap shear load' }),
  );
  expect(values).toEqual([-500, -1500]);
  expect({ unit, name }).toEqual({ unit: 'N', name: 'Lap shear load' });
  const wrong = after(signal([1, 2]), of('unit', { to: 'N', how: 'as they are: the unit was wrong' }));
  expect(wrong).toMatchObject({ values: [1, 2], unit: 'N' });
  expect(() => after(signal([1]), of('unit', { to: '°C' }))).toThrow();
  expect(() => after(signal([1]), of('unit', { to: 'furlongs per' }))).toThrow(/Write it like/);
});

test('every kind says its sentence with its usual settings', () => {
  for (const kind of MENDING_KINDS) {
    expect(kind.title.length).toBeGreaterThan(5);
    // Values that only the user knows are empty at first; all else suits.
    const known = kind.sentence.schema.safeParse(kind.defaults);
    const empty = Object.entries(kind.defaults).filter(([, v]) => v === '');
    expect(known.success || empty.length > 0, kind.kind).toBe(true);
  }
  expect(() => mendingKind('nothing')).toThrow(/Choose one/);
});
