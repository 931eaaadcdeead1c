import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { measureKind, MEASURE_KINDS, Measure } from '$core/measures/registry';
import { combinedUnit, follower, valueAt } from '$core/measures/fields';
import type { Measured } from '$core/measures/measure';
import { Random } from '$core/random';
import { sampledOf, type Sampled } from '$core/samples/sampled';
import { CrossingFinder } from '$core/signal/crossings';
import { bestLag } from '$core/signal/lag';
import { onGrid, spreadOf } from '$core/signal/spread';
import { grubbsCritical, grubbsHint, seriesStatistics } from '$core/statistics/series';
import { recipeSamples, referenceCase, within } from '../../reference';

const signalOf = (name: string, unit: string, hz: number, values: ArrayLike<number>, startNs = 0): Sampled =>
  sampledOf(
    { id: name, name, quantity: '', unit, rate: { num: hz, den: 1 }, startNs, width: 1 },
    Float32Array.from(values),
  );

describe('crossings of a level', () => {
  const reference = referenceCase('04_crossings');
  const times = (
    samples: ArrayLike<number>,
    fs: number,
    level: number,
    hysteresis: number,
    way: 'rising' | 'falling',
    block: number,
  ) => {
    const found: number[] = [];
    const finder = new CrossingFinder(level, hysteresis, way);
    const all = Array.from(samples);
    for (let i = 0; i < all.length; i += block)
      finder.push(all.slice(i, i + block), (at) => void found.push(at / fs));
    return found;
  };
  reference.inputs.items.forEach(
    (item: { name: string; signal: never; level: number; hysteresis: number }, k: number) => {
      test.each([1e9, 7, 1])(`${item.name} as the reference says, fed in blocks of %d`, (block) => {
        const samples = recipeSamples(item.signal);
        const { fs } = item.signal as { fs: number };
        const expected = reference.expected.items[k];
        for (const way of ['rising', 'falling'] as const) {
          const got = times(samples, fs, item.level, item.hysteresis, way, block);
          expect(got.length).toBe(expected[`${way}_count`]);
          got.forEach((t, i) => within(t, expected[`${way}_times`][i], reference, 'default'));
        }
      });
    },
  );
  test('noise about the level counts once where the hysteresis is larger than it', () => {
    const noisy = [-2, -0.1, 0.1, -0.1, 0.2, -0.2, 0.3, 2, -2, 1];
    expect(times(noisy, 1, 0, 0, 'rising', 3)).toHaveLength(4);
    expect(times(noisy, 1, 0, 1, 'rising', 3)).toHaveLength(2);
  });
  test('over a gap nothing is interpolated: the instant is that of the sample', () => {
    expect(times([-1, NaN, 3], 1, 0, 0, 'rising', 1)).toEqual([2]);
    expect(times([-1, 3], 1, 0, 0, 'rising', 1)).toEqual([0.25]);
  });
  test('a search that is ended finds no more within the block', () => {
    const found: number[] = [];
    new CrossingFinder(0, 0, 'rising').push([-1, 1, -1, 1], (at) => (found.push(at), false));
    expect(found).toEqual([0.5]);
  });
});

describe('best fit in time', () => {
  const wave = (n: number, seed: number) => {
    const random = new Random(seed);
    let v = 0;
    return Float64Array.from({ length: n }, () => (v = 0.9 * v + random.gauss()));
  };
  test.each([-137, -3, 0, 1, 250])('finds a shift of %d samples, with coefficient 1', (shift) => {
    const long = wave(2400, 5);
    const a = long.slice(400, 1400);
    const b = long.slice(400 - shift, 1400 - shift);
    const { samples, coefficient } = bestLag(a, b);
    expect(samples).toBeCloseTo(shift, 1);
    expect(coefficient).toBeCloseTo(1, 6);
  });
  test('neither gain nor offset counts; a turned sign makes no fit', () => {
    const long = wave(1200, 9);
    const a = long.slice(100, 1100);
    const b = long.slice(80, 1080);
    expect(
      bestLag(
        a,
        b.map((v) => 7 + 0.01 * v),
      ).samples,
    ).toBeCloseTo(20, 1);
    expect(
      bestLag(
        a,
        b.map((v) => -v),
      ).coefficient,
    ).toBeLessThan(0.5);
  });
  test('fractions of a sample: a sine that is 0.3 samples late', () => {
    const sine = (late: number) =>
      Float64Array.from({ length: 1000 }, (_, i) => Math.exp(-(((i - 500 - late) / 40) ** 2)));
    expect(bestLag(sine(0), sine(12.3)).samples).toBeCloseTo(12.3, 2);
  });
  test('a signal without variation is refused', () => {
    expect(() => bestLag([1, 1, 1, 1], [1, 2, 3, 4])).toThrow(/no variation/);
  });
  test('gaps count for nothing', () => {
    const long = wave(1200, 3);
    const a = long.slice(100, 1100);
    const b = long.slice(60, 1060);
    b.fill(NaN, 200, 260);
    const found = bestLag(a, b);
    expect(found.samples).toBeCloseTo(40, 1);
    expect(found.coefficient).toBeGreaterThan(0.9);
  });
});

describe('series of specimens', () => {
  const reference = referenceCase('20_specimen_series');
  const { values, table_n } = reference.inputs;
  const { expected } = reference;
  test('statistics with and without the outlier as the reference says', () => {
    const s = seriesStatistics(values);
    within(s.mean, expected.mean, reference, 'mean');
    within(s.standardDeviation, expected.std, reference, 'std');
    within(s.variation, expected.variation_percent, reference, 'variation_percent');
    within(s.median, expected.median, reference, 'median');
    within(s.halfWidth95, expected.half_width_95, reference, 'half_width_95');
    const without = seriesStatistics(values.filter((_: number, k: number) => k !== expected.index));
    within(without.mean, expected.without.mean, reference, 'mean');
    within(without.standardDeviation, expected.without.std, reference, 'std');
    within(without.halfWidth95, expected.without.half_width_95, reference, 'half_width_95');
  });
  test('Grubbs’ test names the outlier, with its critical values', () => {
    const hint = grubbsHint(values)!;
    expect(hint.index).toBe(expected.index);
    within(hint.distance, expected.grubbs, reference, 'grubbs');
    within(hint.critical5, expected.critical_5, reference, 'critical_5');
    within(hint.critical1, expected.critical_1, reference, 'critical_1');
    table_n.forEach((n: number, k: number) =>
      within(grubbsCritical(n, 0.05), expected.grubbs_critical[k], reference, 'grubbs_critical'),
    );
  });
  test('one value has a mean and nothing else; none has nothing; two make no hint; what is missing is left out', () => {
    expect(seriesStatistics([4])).toMatchObject({ n: 1, mean: 4, median: 4, lowest: 4, highest: 4 });
    expect(seriesStatistics([4]).halfWidth95).toBeNaN();
    expect(seriesStatistics([])).toMatchObject({ n: 0, mean: NaN, median: NaN });
    expect(seriesStatistics([1, NaN, 3])).toMatchObject({ n: 2, mean: 2, median: 2 });
    expect(grubbsHint([1, 2])).toBeNull();
    expect(grubbsHint([3, 3, 3, 3])).toBeNull();
    expect(grubbsHint([1, NaN, 1.1, 0.9, 50])!.index).toBe(4);
  });
});

describe('the spread of several signals', () => {
  test('mean and standard deviation at each place are those of the values there', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 3, maxLength: 3 }), {
          minLength: 2,
          maxLength: 9,
        }),
        (signals) => {
          // prettier-ignore
          const spread = spreadOf(signals);
          for (let g = 0; g < 3; g++) {
            const s = seriesStatistics(signals.map((own) => own[g]));
            expect(spread.mean[g]).toBeCloseTo(s.mean, 6);
            expect(spread.standardDeviation[g]).toBeCloseTo(s.standardDeviation, 5);
            expect(spread.lowest[g] + 0).toBe(s.lowest + 0);
            expect(spread.highest[g] + 0).toBe(s.highest + 0);
          }
        },
      ),
    );
  });
  test('where one has no value the others count; where none has, there is none', () => {
    const s = spreadOf([[1, NaN, NaN], [3, 4, NaN]]); // prettier-ignore
    expect([...s.count]).toEqual([2, 1, 0]);
    expect([...s.mean]).toEqual([2, 4, NaN]);
    expect([...s.standardDeviation]).toEqual([Math.SQRT2, NaN, NaN]);
  });
  test('a common grid: straight between neighbours, nothing outside, nothing over a gap or too far', () => {
    expect([...onGrid([0, 1, 2, 9], [0, 10, NaN, 30], [-1, 0, 0.5, 1.5, 5, 9, 10], 3)]).toEqual([NaN, 0, 5, NaN, NaN, 30, NaN]); // prettier-ignore
  });
});

describe('measures', () => {
  // A pull to 10 kN at 2 kN/mm, then a break at 6 s; travel comes at another rate.
  const load = Float32Array.from({ length: 1001 }, (_, i) => (i <= 600 ? (10 * i) / 600 : 0.4));
  const travel = Float32Array.from({ length: 101 }, (_, i) => 1 + (5 * i) / 60);
  const take = (of: Sampled[]): Measured => ({
    name: 'CP-01',
    durationS: 10,
    channel: (name) => of.find((s) => s.name === name)!,
  });
  const pull = take([signalOf('Load', 'kN', 100, load), signalOf('Travel', 'mm', 10, travel)]);
  const run = (kind: string, settings: Record<string, unknown>, of = pull) => {
    const found = measureKind(kind);
    return found.run(of, { ...found.defaults, ...settings });
  };
  test('the highest, where it stands, and another channel there', () => {
    const highest = run('level', { channel: 'Load' });
    expect(highest).toMatchObject({ value: 10, unit: 'kN', atS: 6 });
    expect(run('there', { read: 'Travel', channel: 'Load' }).value).toBeCloseTo(6, 5);
    expect(run('level', { channel: 'Load', which: 'mean', from: 0, to: 6 }).value).toBeCloseTo(5, 1);
  });
  test('the slope of load over travel between two loads is 2 kN/mm, whatever the offsets', () => {
    const slope = run('slope', { y: 'Load', x: 'Travel', low: 2, high: 6 });
    expect(slope.value).toBeCloseTo(2, 4);
    expect(slope.unit).toBe('kN/mm');
    expect(() => run('slope', { y: 'Load', x: 'Travel', low: 2, high: 60 })).toThrow(/no passage/);
    expect(() => run('slope', { y: 'Load', x: 'Travel', low: 2, high: 2 })).toThrow(/two different/);
  });
  test('a first, failed try below the level does not count as the passage', () => {
    const tried = [0, 1, 3, 1, 0, 2, 3, 4, 5];
    const of = take([
      signalOf('Load', 'kN', 1, tried),
      signalOf('Travel', 'mm', 1, [0, 1, 2, 3, 4, 5, 6, 7, 8]),
    ]);
    expect(run('slope', { y: 'Load', x: 'Travel', low: 1.5, high: 5 }, of).value).toBeCloseTo(1, 6);
  });
  test('the energy until the break is ½·10 kN·5 mm = 25 J', () => {
    const area = run('area', { y: 'Load', x: 'Travel' });
    expect(area.unit).toBe('J');
    expect(area.value).toBeCloseTo(25, 1);
    expect(area.atS).toBeCloseTo(6, 1);
    // After the break the load stays at 0.4 kN over (10/60·5 … ) mm.
    expect(run('area', { y: 'Load', x: 'Travel', until: 'the end' }).value).toBeGreaterThan(area.value);
    expect(run('area', { y: 'Load', x: 'Travel', until: 'the highest' }).value).toBeCloseTo(25, 2);
  });
  test('what lies within a gap is left out of an area', () => {
    const of = take([signalOf('F', 'N', 1, [1, 1, NaN, 1, 1]), signalOf('s', 'm', 1, [0, 1, 2, 3, 4])]);
    expect(run('area', { y: 'F', x: 's', until: 'the end' }, of)).toMatchObject({ value: 2, unit: 'J' });
  });
  test('time above and below a level: each sample stands for its own time', () => {
    const of = take([signalOf('T', '°C', 2, [50, 61, 62, NaN, 60, 59])]);
    expect(run('time above', { channel: 'T', level: 60 }, of)).toMatchObject({ value: 1, unit: 's' });
    expect(run('time above', { channel: 'T', side: 'below', level: 60 }, of).value).toBe(1);
  });
  test('the time of a crossing and the value at a time, between samples', () => {
    const of = take([signalOf('T', '°C', 1, [0, 10, 20], 5e9)]);
    expect(run('crossing', { channel: 'T', level: 15 }, of).value).toBeCloseTo(6.5, 9);
    expect(run('at', { channel: 'T', at: 5.5 }, of).value).toBeCloseTo(5, 6);
    expect(() => run('at', { channel: 'T', at: 99 }, of)).toThrow(/nothing at 99 s/);
    expect(() => run('crossing', { channel: 'T', level: 99 }, of)).toThrow(/never rises through 99/);
  });
  test('a channel of gaps only, of one sample and of none: said, not computed', () => {
    const of = take([
      signalOf('gone', 'V', 1, [NaN, NaN]),
      signalOf('one', 'V', 1, [3]),
      signalOf('none', 'V', 1, []),
    ]);
    expect(() => run('level', { channel: 'gone' }, of)).toThrow(/missing all along/);
    expect(() => run('area', { y: 'gone', x: 'one' }, of)).toThrow(/missing all along/);
    expect(run('level', { channel: 'one' }, of)).toMatchObject({ value: 3, atS: 0 });
    expect(() => run('level', { channel: 'none' }, of)).toThrow(/no sample/);
  });
  test('every kind says its sentence, names its column and refuses what its schema refuses', () => {
    for (const kind of MEASURE_KINDS) {
      expect(kind.sentence.schema.safeParse(kind.defaults).success, kind.kind).toBe(true);
      expect(kind.name(kind.defaults).length).toBeGreaterThan(3);
      expect(Measure.safeParse({ kind: kind.kind, settings: { nonsense: 1 } }).success).toBe(false);
    }
    expect(Measure.safeParse({ kind: 'nothing', settings: {} }).success).toBe(false);
  });
  test('units of products and quotients', () => {
    expect(combinedUnit('kN', 'mm', 1)).toMatchObject({ unit: 'J', factor: expect.closeTo(1, 12) });
    expect(combinedUnit('kN', 'mm', -1)).toEqual({ unit: 'kN/mm', factor: 1 });
    expect(combinedUnit('mm', 'm', -1)).toMatchObject({ unit: '1', factor: expect.closeTo(1e-3, 12) });
    expect(combinedUnit('m/s', 'mm', 1).unit).toBe('m·mm/s');
    expect(combinedUnit('kN', 'mm/s', -1).unit).toBe('kN·s/mm');
    expect(combinedUnit('V', '1', -1).unit).toBe('V');
    expect(combinedUnit('counts', 'mm', -1).unit).toBe('counts/mm');
  });
  test('a follower reads as valueAt does, whatever the rates', () => {
    const signal = signalOf(
      'x',
      'V',
      7,
      Float32Array.from({ length: 50 }, (_, i) => Math.sin(i)),
      3e8,
    );
    const at = follower(signal);
    for (let t = 0; t < 8; t += 0.013) expect(at(t)).toBe(valueAt(signal, t));
  });
});
