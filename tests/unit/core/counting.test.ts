import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { classLabels, classOf, classesFor, countOf, roundUp, type Classes } from '$core/counting/classes';
import { LevelCrossings, Matrix, TimeAtLevel, atOrAbove } from '$core/counting/levels';
import { Rainflow, type Residue } from '$core/counting/rainflow';
import { RangePairs, SimpleRanges } from '$core/counting/ranges';
import { TurningPoints, turningPoints } from '$core/counting/turning';
import {
  amplitudeOf,
  atZeroMean,
  cyclesToFailure,
  normalQuantile,
  shifted,
  slopeBelow,
  type EnduranceLine,
} from '$core/life/line';
import { recipeSamples, referenceCase, within } from '../../reference';

interface Cycle {
  from: number;
  to: number;
  count: number;
}
const rangeOf = ({ from, to }: Cycle) => Math.abs(to - from);

function counted(
  points: ArrayLike<number>,
  Method: typeof Rainflow | typeof RangePairs | typeof SimpleRanges,
  residue: Residue = 'counted as halves',
): Cycle[] {
  const cycles: Cycle[] = [];
  const method = new Method((from, to, _a, _b, count) => cycles.push({ from, to, count }));
  method.feed(
    points,
    Array.from(points, (_, i) => i),
    points.length,
  );
  method.end(residue);
  return cycles;
}
/** Counts by range, ranges that are equal to the last digits together. */
function byRange(cycles: Cycle[]): { range: number; count: number }[] {
  const sums = new Map<number, number>();
  for (const c of cycles) {
    const range = Number(rangeOf(c).toPrecision(9));
    sums.set(range, (sums.get(range) ?? 0) + c.count);
  }
  return [...sums].map(([range, count]) => ({ range, count })).sort((a, b) => a.range - b.range);
}
const samplesOf = (item: { samples?: number[]; recipe?: never }) =>
  item.samples ?? Array.from(recipeSamples(item.recipe!));
const total = (cycles: Cycle[]) => cycles.reduce((n, c) => n + c.count, 0);
const history = fc.array(fc.integer({ min: -20, max: 20 }), { minLength: 2, maxLength: 120 });

describe('turning points', () => {
  const reference = referenceCase('07_turning_points');
  test.each([1, 3, 1e9])('meet the reference cases, fed in blocks of %d', (size) => {
    reference.inputs.items.forEach(
      (item: { samples?: number[]; recipe?: never; hysteresis: number }, k: number) => {
        const samples = samplesOf(item);
        const [values, indices]: number[][] = [[], []];
        const turning = new TurningPoints(item.hysteresis, (v, i, n) => {
          values.push(...v.slice(0, n));
          indices.push(...i.slice(0, n));
        });
        for (let i = 0; i < samples.length; i += size) turning.push(samples.slice(i, i + size), i);
        turning.end();
        const expected = reference.expected.items[k];
        expect(indices, expected.name).toEqual(expected.indices);
        values.forEach((v, i) => within(v, expected.values[i], reference, 'values'));
      },
    );
  });
  test('they alternate, differ by more than the hysteresis, and hold the extremes', () => {
    fc.assert(
      fc.property(history, fc.integer({ min: 0, max: 8 }), (samples, hysteresis) => {
        const { values, indices } = turningPoints(samples, hysteresis);
        values.forEach((v, i) => expect(samples[indices[i]]).toBe(v));
        for (let i = 2; i < values.length; i++)
          expect((values[i] - values[i - 1]) * (values[i - 1] - values[i - 2])).toBeLessThan(0);
        for (let i = 2; i < values.length - 1; i++)
          expect(Math.abs(values[i] - values[i - 1])).toBeGreaterThan(hysteresis);
        if (hysteresis === 0) {
          expect(Math.max(...values)).toBe(Math.max(...samples));
          expect(Math.min(...values)).toBe(Math.min(...samples));
        }
      }),
    );
  });
  test('missing samples are passed over; nothing measured has none', () => {
    expect(turningPoints([NaN, 1, NaN, 3, NaN, NaN, 0, NaN]).values).toEqual([1, 3, 0]);
    expect(turningPoints([NaN, NaN]).values).toEqual([]);
    expect(turningPoints([]).values).toEqual([]);
    expect(turningPoints([4]).values).toEqual([4]);
  });
});

describe('rainflow', () => {
  test('meets the short reference cases, the worked example of ASTM E1049 among them', () => {
    const reference = referenceCase('07_rainflow_small');
    reference.inputs.items.forEach((item: { turning_points: number[] }, k: number) => {
      const expected = reference.expected.items[k];
      const cycles = counted(item.turning_points, Rainflow);
      expect(byRange(cycles), expected.name).toEqual(expected.counts);
      expect(total(cycles)).toBe(expected.total_cycles);
      // Which of two equal points a cycle is said to turn at is free; its range, mean and count are not.
      const plain = (list: { range: number; mean: number; count: number }[]) => {
        const sums = new Map<string, number>();
        for (const { range, mean, count } of list)
          sums.set(`${range} about ${mean}`, (sums.get(`${range} about ${mean}`) ?? 0) + count);
        return Object.fromEntries(sums);
      };
      expect(
        plain(cycles.map((c) => ({ range: rangeOf(c), mean: (c.from + c.to) / 2, count: c.count }))),
      ).toEqual(plain(expected.cycles));
    });
  });
  test('meets the random reference histories: histogram, from–to matrix, residue, transitions', () => {
    const reference = referenceCase('07_rainflow_random');
    reference.inputs.items.forEach(
      (
        item: {
          recipe: never;
          round_decimals: number;
          hysteresis: number;
          classes: { lower: number; width: number; count: number };
          range_bins: { width: number; count: number };
        },
        k: number,
      ) => {
        const expected = reference.expected.items[k];
        const place = 10 ** item.round_decimals;
        const samples = recipeSamples(item.recipe).map((x) => Math.round(x * place) / place);
        const { values } = turningPoints(samples, item.hysteresis);
        expect(values).toHaveLength(expected.turning_point_count);
        const bins = classesFor(
          { count: item.range_bins.count, width: item.range_bins.width, limits: { min: 0, max: item.range_bins.width * item.range_bins.count }, open: true }, 0, 1); // prettier-ignore
        const { lower, width, count } = item.classes;
        const grid = classesFor(
          { count, width: null, limits: { min: lower, max: lower + width * count }, open: false },
          0,
          1,
        );
        const histogram = new Float64Array(countOf(bins));
        const fromTo = new Matrix(grid, grid);
        const cycles: Cycle[] = [];
        const rainflow = new Rainflow((from, to, _a, _b, n) => {
          cycles.push({ from, to, count: n });
          histogram[classOf(bins, Math.abs(to - from))] += n;
          if (n === 1) fromTo.add(to, from);
        });
        // In two parts, as they come.
        const places = values.map((_, i) => i);
        rainflow.feed(values.slice(0, 101), places, 101);
        rainflow.feed(values.slice(101), places.slice(101), values.length - 101);
        expect(Array.from(rainflow.residue.values)).toEqual(expected.residue);
        rainflow.end('counted as halves');
        expect(Array.from(histogram)).toEqual(expected.range_histogram);
        expect(total(cycles)).toBe(expected.total_cycles);
        expect(cycles.filter((c) => c.count === 1)).toHaveLength(expected.full_cycles);
        const rows = (m: Matrix) =>
          Array.from({ length: count }, (_, i) => Array.from(m.cells.slice(i * count, (i + 1) * count)));
        expect(rows(fromTo)).toEqual(expected.closed_from_to_matrix);
        const transitions = new Matrix(grid, grid);
        for (let i = 1; i < values.length; i++) transitions.add(values[i], values[i - 1]);
        expect(rows(transitions)).toEqual(expected.turning_point_transition_matrix);
        within(
          cycles.reduce((sum, c) => sum + rangeOf(c) * c.count, 0),
          expected.sum_range_times_count,
          reference,
          'sum_range_times_count',
        );
      },
    );
  });
  test('as halves, the ranges of cycles sum to those between the turning points', () => {
    fc.assert(
      fc.property(history, (samples) => {
        const { values } = turningPoints(samples);
        const travelled = values.slice(1).reduce((sum, v, i) => sum + Math.abs(v - values[i]), 0);
        const cycles = counted(values, Rainflow);
        expect(cycles.reduce((sum, c) => sum + 2 * c.count * rangeOf(c), 0)).toBeCloseTo(travelled, 9);
      }),
    );
  });
  test('it does not depend on the sign, nor (but for halves) on where the history begins when it repeats', () => {
    const closed = (values: number[]) =>
      byRange(counted(turningPoints(values).values, Rainflow, 'closed by repeating'));
    fc.assert(
      fc.property(history, (samples) => {
        expect(byRange(counted(turningPoints(samples.map((x) => -x)).values, Rainflow))).toEqual(
          byRange(counted(turningPoints(samples).values, Rainflow)),
        );
        // Of a history that comes back to its beginning any part may be the first.
        const loop = [...samples, samples[0]];
        const top = samples.indexOf(Math.max(...samples));
        const turned = [...samples.slice(top), ...samples.slice(0, top), samples[top]];
        const largest = (of: { range: number; count: number }[]) => of.at(-1) ?? null;
        expect(largest(closed(loop))).toEqual(largest(closed(turned)));
        expect(largest(closed(turned))?.range ?? 0).toBe(Math.max(...samples) - Math.min(...samples));
      }),
    );
  });
  test('the residue closes nothing, and is left out when asked', () => {
    expect(counted([0, 5, -4, 3, -2, 1], Rainflow, 'left out')).toEqual([]);
    expect(total(counted([0, 5, -4, 3, -2, 1], Rainflow))).toBe(2.5);
  });
});

test('range pairs and simple ranges meet the reference cases', () => {
  const reference = referenceCase('07_range_pair');
  reference.inputs.items.forEach((item: { turning_points: number[] }, k: number) => {
    const expected = reference.expected.items[k];
    expect(byRange(counted(item.turning_points, RangePairs)), expected.name).toEqual(expected.counts);
    expect(byRange(counted(item.turning_points, SimpleRanges))).toEqual(
      expected.simple_range_counts_half_cycles,
    );
  });
});

test('level crossings meet the reference cases', () => {
  const reference = referenceCase('07_level_crossing');
  reference.inputs.items.forEach(
    (item: { samples?: number[]; recipe?: never; reference: number; levels: number[] }, k: number) => {
      const crossings = new LevelCrossings(item.levels);
      for (const v of samplesOf(item)) crossings.push(v);
      const expected = reference.expected.items[k];
      expect(Array.from(crossings.up)).toEqual(expected.upward);
      expect(Array.from(crossings.down)).toEqual(expected.downward);
      expect(Array.from(crossings.counted(item.reference))).toEqual(expected.level_crossing_counts);
    },
  );
});

describe('time at level', () => {
  test('meets the reference cases, ends open and closed', () => {
    const reference = referenceCase('07_time_at_level');
    reference.inputs.items.forEach(
      (item: { samples?: number[]; recipe?: never; fs: number; edges: number[] }, k: number) => {
        const expected = reference.expected.items[k];
        const samples = samplesOf(item);
        const limits = { min: item.edges[0], max: item.edges.at(-1)! };
        for (const open of [true, false]) {
          const time = new TimeAtLevel(
            classesFor({ count: item.edges.length - 1, width: null, limits, open }, 0, 0),
          );
          for (let i = 0; i < samples.length; i += 7) time.push(samples.slice(i, i + 7));
          time.inside.forEach((n, c) =>
            within(n / item.fs, expected[open ? 'open_seconds' : 'closed_seconds'][c], reference, 'default'),
          );
          if (!open) {
            within(time.below / item.fs, expected.below_seconds, reference, 'default');
            within(time.above / item.fs, expected.above_seconds, reference, 'default');
            atOrAbove(time).forEach((share, c) =>
              within(share * 100, expected.cumulative_percent_at_or_above_edge[c], reference, 'default'),
            );
          }
        }
      },
    );
  });
  test('every sample is somewhere, and where classOf says', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.double({ min: -50, max: 50, noNaN: true }), fc.constant(NaN)), {
          maxLength: 60,
        }),
        fc.integer({ min: 2, max: 40 }),
        fc.boolean(),
        (samples, count, open) => {
          const classes = classesFor({ count, width: null, limits: { min: -17.3, max: 21.1 }, open }, 0, 0);
          const time = new TimeAtLevel(classes);
          time.push(samples);
          const n = countOf(classes);
          const expected = new Float64Array(n);
          for (const x of samples) {
            const k = classOf(classes, x);
            if (k >= 0 && k < n) expected[k]++;
          }
          expect(time.inside).toEqual(expected);
          expect(time.total + time.missing).toBe(samples.length);
          expect(expected.reduce((a, b) => a + b, 0) + time.below + time.above).toBe(time.total);
        },
      ),
    );
  });
  test('a sample counts what it weighs; without a weight it is missing', () => {
    const time = new TimeAtLevel(
      classesFor({ count: 2, width: null, limits: { min: 0, max: 2 }, open: false }, 0, 0),
    );
    time.push([0.5, 1.5, 1.5, 0.5], [2, 0.25, 0.25, NaN]);
    expect([...time.inside, time.missing, time.total]).toEqual([2, 0.5, 1, 2.5]);
  });
});

describe('classes', () => {
  const wish = { count: 12, width: null, limits: null, open: false };
  test('their limits are round by themselves, hold all there is, and are no more than wanted', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        fc.double({ min: 1e-3, max: 1e6, noNaN: true }),
        fc.integer({ min: 2, max: 200 }),
        (least, span, count) => {
          const most = least + span;
          const classes = classesFor({ ...wish, count }, least, most);
          expect(countOf(classes)).toBeLessThanOrEqual(count);
          for (const x of [least, most, (least + most) / 2]) {
            const k = classOf(classes, x);
            expect(k).toBeGreaterThanOrEqual(0);
            expect(k).toBeLessThan(countOf(classes));
          }
          const place = classes.edges[0] / classes.width;
          expect(Math.abs(place - Math.round(place))).toBeLessThan(1e-9 * Math.max(1, Math.abs(place)));
        },
      ),
    );
  });
  test('they are named as they are: with their unit, open ends in words, no more digits than needed', () => {
    const classes = (limits: { min: number; max: number }, count: number, open: boolean): Classes =>
      classesFor({ count, width: null, limits, open }, 0, 0);
    expect(classLabels(classes({ min: 0, max: 360 }, 3, false), 'µε')).toEqual([
      '0 to 120 µε',
      '120 to 240 µε',
      '240 to 360 µε',
    ]);
    expect(classLabels(classes({ min: -0.3, max: 0.3 }, 3, true), 'kN')).toEqual([
      'up to −0.1 kN',
      '−0.1 to 0.1 kN',
      'over 0.1 kN',
    ]);
    expect(classLabels(classes({ min: 0, max: 2 }, 2, false), '1')).toEqual(['0 to 1', '1 to 2']);
  });
  test('wrong ones are refused: limits in the wrong order, a width that makes too many, nothing measured', () => {
    expect(() => classesFor({ ...wish, limits: { min: 3, max: 3 } }, 0, 1)).toThrow(/above the lower/);
    expect(() => classesFor({ ...wish, width: 1e-6 }, 0, 1)).toThrow(/choose 0\.001 or more/);
    expect(() => classesFor(wish, Infinity, -Infinity)).toThrow(/holds readings/);
  });
  test('a constant signal lies in a class of its own', () => {
    for (const x of [0, 5, -3.7, 1e6]) {
      const classes = classesFor(wish, x, x);
      expect(classOf(classes, x)).toBeGreaterThanOrEqual(0);
      expect(countOf(classes)).toBeLessThanOrEqual(12);
    }
  });
  test('round numbers are the next at or above', () => {
    expect([0.7, 1, 1.1, 1.3, 7, 9, 95, 0.00021].map(roundUp)).toEqual([
      0.8, 1, 1.2, 1.5, 8, 10, 100, 0.00025,
    ]);
  });
});

describe('life', () => {
  test('Miner’s sums meet the reference cases: original, elementary, and 2k − 1 below the knee', () => {
    const reference = referenceCase('07_miner_damage');
    const { cycles_at_knee: cycles, amplitude_at_knee: amplitude, slope_k: slope } = reference.inputs.sn_line;
    const ways = {
      damage_original: 'no damage',
      damage_elementary: 'the same slope',
      damage_modified: 'the slope 2k − 1',
    } as const;
    reference.inputs.items.forEach(
      ({ spectrum }: { spectrum: { amplitude: number; cycles: number }[] }, k: number) => {
        const expected = reference.expected.items[k];
        for (const [name, how] of Object.entries(ways)) {
          const line: EnduranceLine = { amplitude, cycles, slope, slopeBelow: slopeBelow(slope, how) };
          const damage = spectrum.reduce((d, s) => d + s.cycles / cyclesToFailure(line, s.amplitude), 0);
          within(damage, expected[name], reference, name);
          if (how !== 'the same slope') continue;
          const n = spectrum.reduce((sum, s) => sum + s.cycles, 0);
          within(1 / damage, expected.repetitions_to_failure_elementary, reference, 'default');
          within(
            amplitudeOf(line, damage, n),
            expected.equivalent_amplitude_same_cycles,
            reference,
            'default',
          );
        }
      },
    );
  });
  test('mean corrections meet the reference cases', () => {
    const reference = referenceCase('21_mean_stress_life');
    const { cycles, Rm, m, Sref, Nref, M } = reference.inputs;
    const line: EnduranceLine = { amplitude: Sref, cycles: Nref, slope: m, slopeBelow: m };
    const names = {
      none: 'none',
      goodman: 'Goodman',
      gerber: 'Gerber',
      sensitivity: 'mean sensitivity',
    } as const;
    for (const [key, how] of Object.entries(names)) {
      const amplitudes = cycles.map((c: { amplitude: number; mean: number }) =>
        atZeroMean(how, c.amplitude, c.mean, { strength: Rm, sensitivity: M }),
      );
      if (key !== 'none')
        amplitudes.forEach((a: number, i: number) => within(a, reference.expected[key][i], reference, key));
      const damage = amplitudes.reduce(
        (d: number, a: number, i: number) => d + cycles[i].count / cyclesToFailure(line, a),
        0,
      );
      within(damage, reference.expected[`damage_${key}`], reference, `damage_${key}`);
      if (key === 'none') {
        within(
          2 * amplitudeOf(line, damage, 1e6),
          reference.expected.equivalent_range,
          reference,
          'equivalent_range',
        );
        within(1 / damage, reference.expected.repeats_to_one, reference, 'repeats_to_one');
      }
    }
  });
  test('one cycle of the amplitude of equal damage does it, on either side of the knee', () => {
    const line: EnduranceLine = { amplitude: 80, cycles: 2e6, slope: 5, slopeBelow: 9 };
    for (const a of [20, 79.9, 80, 81, 300])
      expect(amplitudeOf(line, 1000 / cyclesToFailure(line, a), 1000)).toBeCloseTo(a, 9);
    expect(cyclesToFailure(line, 0)).toBe(Infinity);
    expect(amplitudeOf(line, 0, 10)).toBe(0);
  });
  test('scatter moves the line by the quantiles of the normal distribution', () => {
    const line: EnduranceLine = { amplitude: 80, cycles: 2e6, slope: 5, slopeBelow: 9 };
    expect(normalQuantile(0.9)).toBeCloseTo(1.2815515655446, 10);
    expect(normalQuantile(0.001)).toBeCloseTo(-3.0902323061678, 8);
    const [ninety, ten] = [0.9, 0.1].map((survival) => shifted(line, survival, 3).cycles);
    expect(ten / ninety).toBeCloseTo(3, 9);
    expect(shifted(line, 0.5, 3).cycles).toBeCloseTo(2e6, 3);
  });
});
