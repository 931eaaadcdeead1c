import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { STUDY_KINDS } from '$core/studies/registry';
import { overTakes } from '$core/studies/over-takes';
import type { StudyResult } from '$core/studies/study';
import { percentile, shapeOf } from '$core/studies/distribution/distribution';
import { loopAreas } from '$core/signal/loops';
import { bandEnvelope } from '$core/signal/band-envelope';
import { WeightedSignal, WeightedSquare, exceededLevel, type TimeWeighting } from '$core/signal/sound';
import { weightingDb, type Weighting } from '$core/spectrum/bands';
import { recipeSamples, referenceCase, within } from '../../reference';
import { signalOf, studied, takeOf, timed } from '../studies';

const noise = (n: number, seed = 5, sigma = 1) =>
  Float32Array.from(
    recipeSamples({ fs: 1, n, terms: [{ kind: 'gauss12', sigma, seed, rng: 'xorshift32' }] }),
  );

describe('sound levels meet the reference cases', () => {
  const reference = referenceCase('17_sound_levels');
  test('fast and slow, the equivalent level, levels exceeded', () => {
    const { fs, mean_square, indices, short_levels_dB } = reference.inputs;
    for (const time of ['fast', 'slow'] as TimeWeighting[]) {
      const weighted = new WeightedSquare(time, fs);
      const levels = (mean_square as number[]).map((p2) => 10 * Math.log10(weighted.step(p2) / 4e-10));
      (indices as number[]).forEach((i, k) =>
        within(levels[i], reference.expected[`${time}_dB`][k], reference, 'default'),
      );
    }
    const sorted = [...(short_levels_dB as number[])].sort((a, b) => b - a);
    for (const n of [10, 50, 90]) expect(exceededLevel(sorted, n)).toBe(reference.expected[`exceeded_${n}`]);
  });

  test('bursts of a tone rise as they have to', () => {
    const rate = 8000;
    reference.expected.burst_response.forEach((b: { ms: number; fast_max: number; slow_max: number; exposure: number }) => {
      const n = (b.ms / 1000) * rate;
      for (const [time, wanted] of [['fast', b.fast_max], ['slow', b.slow_max]] as [TimeWeighting, number][]) {
        const weighted = new WeightedSquare(time, rate);
        let y = 0;
        for (let i = 0; i < n; i++) y = weighted.step(1);
        expect(10 * Math.log10(y)).toBeCloseTo(wanted, 6);
      }
    }); // prettier-ignore
  });
});

describe('a weighted signal', () => {
  test.each(['A', 'C', 'Z'] as Weighting[])(
    '%s: each tone is lowered as the standard says, and not delayed',
    (weighting) => {
      for (const f of [31.5, 100, 1000, 4000, 11_000]) {
        const rate = 25_600;
        const out: number[] = [];
        const signal = new WeightedSignal(weighting, rate, (v) => out.push(...v));
        const x = timed(rate, 4, (t) => Math.sin(2 * Math.PI * f * t));
        for (let at = 0; at < x.length; at += 7777) signal.push(x.subarray(at, at + 7777));
        signal.finish();
        expect(out).toHaveLength(x.length);
        const gain = 10 ** (weightingDb(weighting, f) / 20);
        let worst = 0;
        for (let i = 30_000; i < 70_000; i++) worst = Math.max(worst, Math.abs(out[i] - gain * x[i]));
        expect(worst / gain).toBeLessThan(0.01);
      }
    },
  );

  test('Z leaves every sample of anything as it is, whatever the blocks; gaps stay gaps', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), fc.integer({ min: 1, max: 900 }), (n, block) => {
        const x = noise(n);
        if (n > 50) x[40] = NaN;
        const out: number[] = [];
        const signal = new WeightedSignal('Z', 100, (v) => out.push(...v));
        for (let at = 0; at < n; at += block) signal.push(x.subarray(at, at + block));
        signal.finish();
        expect(out).toHaveLength(n);
        const worst = x.reduce((most, v, i) => (v === v ? Math.max(most, Math.abs(out[i] - v)) : most), 0);
        expect(worst).toBeLessThan(1e-9);
        if (n > 50) expect(out[40]).toBeNaN();
      }),
      { numRuns: 40 },
    );
  });
});

describe('sound level over time', () => {
  const rate = 12_800;
  const tone = (pa: number, seconds = 8) =>
    timed(rate, seconds, (t) => pa * Math.SQRT2 * Math.sin(2 * Math.PI * 1000 * t));
  const study = (values: Float32Array, settings: Record<string, unknown> = {}) =>
    studied(
      'sound',
      takeOf({ channel: [signalOf('Microphone', values, { unit: 'Pa', hz: rate })] }),
      settings,
    );

  test('1 Pa at 1 kHz is 93.98 dB, by any weighting; twice as much is 6 dB more', () => {
    for (const weighting of ['A', 'C', 'Z'])
      expect(study(tone(1), { weighting }).finding('Equivalent level')).toBeCloseTo(
        20 * Math.log10(1 / 2e-5),
        2,
      );
    expect(study(tone(2)).finding('Highest level') - study(tone(1)).finding('Highest level')).toBeCloseTo(
      20 * Math.log10(2),
      3,
    );
  });

  test('half the time loud: equivalent, exceeded and extreme levels', () => {
    const values = tone(1, 20).map((v, i) => (i < 10 * rate ? v : v / 10));
    const s = study(values, { time: 'fast' });
    expect(s.finding('Equivalent level')).toBeCloseTo(93.98 + 10 * Math.log10(0.505), 1);
    expect(s.finding('Exceeded 10 % of the time')).toBeCloseTo(93.98, 1);
    expect(s.finding('Exceeded 90 % of the time')).toBeCloseTo(73.98, 1);
    expect(s.finding('Lowest level')).toBeCloseTo(73.98, 1);
    expect(s.finding('Exposure level') - s.finding('Equivalent level')).toBeCloseTo(10 * Math.log10(20), 3);
  });

  test('impulse rises at once and falls by 2.9 dB a second', () => {
    const values = tone(1, 6).map((v, i) => (i > rate && i < 1.2 * rate ? v : 0));
    const line = study(values, { time: 'impulse', weighting: 'Z', step: 0.5 }).figures[0]
      .marks[0] as unknown as {
      y: Float64Array;
    };
    expect(line.y[6] - line.y[8]).toBeCloseTo((10 * Math.log10(Math.E)) / 1.5, 2);
  });

  test('gaps count nowhere; nothing but gaps is refused; a step below a sample is refused', () => {
    const values = tone(1);
    values.fill(NaN, 3 * rate, 4 * rate);
    const s = study(values);
    expect(s.finding('Missing')).toBe(rate);
    expect(s.finding('Equivalent level')).toBeCloseTo(93.98, 1);
    expect(() => study(new Float32Array(rate).fill(NaN))).toThrow(/gaps/);
    expect(() =>
      studied('sound', takeOf({ channel: [signalOf('x', [1, 2, 3], { hz: 10 })] }), { step: 0.01 }),
    ).toThrow(/0.1 s/);
  });
});

describe('the distribution of readings', () => {
  const reference = referenceCase('01_statistics_basic');
  test('percentiles of both kinds, skewness and kurtosis meet the reference cases', () => {
    let compared = 0;
    reference.inputs.signals.forEach((signal: { samples?: number[]; recipe?: never }, k: number) => {
      const values = Float64Array.from(signal.samples ?? recipeSamples(signal.recipe!)).sort();
      const expected = reference.expected.signals[k] as Record<string, Record<string, number> & number>;
      for (const [field, between] of [
        ['percentiles_linear', true],
        ['percentiles_nearest_rank', false],
      ] as const)
        ((expected[field] ?? []) as unknown as number[]).forEach((v, at) => {
          within(percentile(values, reference.inputs.percentiles[at] / 100, between), v, reference, field);
          compared++;
        });
      const shape = shapeOf(signal.samples ?? recipeSamples(signal.recipe!));
      for (const [field, got] of [['skewness', shape.skewness], ['kurtosis_excess', shape.kurtosis], ['excess_kurtosis', shape.kurtosis]] as const)
        if (typeof expected[field] === 'number') {
          within(got, expected[field], reference, field);
          compared++;
        }
    }); // prettier-ignore
    expect(compared).toBeGreaterThan(10);
  });

  test('bars hold every reading once; half lies below the median; order of samples does not matter', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -50, max: 50, noNaN: true }), { minLength: 1, maxLength: 300 }),
        (list) => {
          const run = (values: number[]) =>
            studied('distribution', takeOf({ channel: [signalOf('x', values)] }), { bars: 17 });
          const s = run(list);
          const bars = s.figures[0].marks[0] as unknown as { y: Float64Array };
          expect(bars.y.reduce((a, b) => a + b, 0)).toBeCloseTo(100, 6);
          const single = Float32Array.from(list);
          const below = single.filter((v) => v < s.finding('Median')).length;
          expect(below).toBeLessThanOrEqual(list.length / 2);
          expect(run([...list].reverse()).findings).toEqual(s.findings);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('noise is normal; a constant is one bar; gaps are counted; nothing is refused', () => {
    const s = studied('distribution', takeOf({ channel: [signalOf('x', noise(100_000))] }));
    expect(Math.abs(s.finding('Skewness'))).toBeLessThan(0.03);
    expect(s.finding('95th percentile')).toBeCloseTo(1.645, 1);
    const flat = studied('distribution', takeOf({ channel: [signalOf('x', [3, 3, NaN, 3])] }));
    expect(flat.finding('Median')).toBe(3);
    expect(flat.finding('Missing')).toBe(1);
    expect((flat.figures[0].marks[0] as unknown as { y: Float64Array }).y).toEqual(Float64Array.of(100));
    expect(() => studied('distribution', takeOf({ channel: [signalOf('x', [NaN, NaN])] }))).toThrow(/gaps/);
  });
});

describe('the cepstrum', () => {
  test('finds an echo, and how far the lines of a family lie apart', () => {
    const dry = noise(60_000);
    const echo = dry.map((v, i) => v + (i >= 200 ? 0.6 * dry[i - 200] : 0));
    const s = studied('cepstrum', takeOf({ channel: [signalOf('x', echo, { hz: 10_000 })] }));
    expect(s.finding('Repeats after')).toBeCloseTo(0.02, 9);
    const floor = noise(80_000, 9, 0.02);
    const family = timed(8000, 10, (t) =>
      Array.from({ length: 30 }, (_, k) => Math.cos(2 * Math.PI * 62.5 * (k + 5) * t)).reduce(
        (a, b) => a + b,
      ),
    ).map((v, i) => v + floor[i]);
    const f = studied('cepstrum', takeOf({ channel: [signalOf('x', family, { hz: 8000 })] }), {
      length: 8192,
    });
    expect(f.finding('Lines lie apart by')).toBeCloseTo(62.5, 1);
  });
  test('scaling moves no peak; a constant and a search beyond the segment are refused', () => {
    const x = noise(20_000);
    const one = (v: Float32Array) => studied('cepstrum', takeOf({ channel: [signalOf('x', v)] }), { length: 1024 }).finding('Repeats after'); // prettier-ignore
    expect(one(x.map((v) => 1000 * v))).toBe(one(x));
    expect(() => one(new Float32Array(20_000).fill(2))).toThrow(/does not move/);
    expect(() =>
      studied('cepstrum', takeOf({ channel: [signalOf('x', x)] }), { length: 1024, shortest: 9 }),
    ).toThrow(/longer/);
  });
});

describe('the envelope of a band', () => {
  const rate = 4000;
  test('of a modulated tone is its modulation: frequency, depth, mean, without delay', () => {
    const x = timed(rate, 10, (t) => (3 + 1.5 * Math.sin(2 * Math.PI * 12 * t)) * Math.cos(2 * Math.PI * 700 * t) + 5 * Math.sin(2 * Math.PI * 40 * t)); // prettier-ignore
    const s = studied('envelope', takeOf({ channel: [signalOf('x', x, { hz: rate })] }), {
      lowest: 600,
      highest: 800,
    });
    expect(s.finding('Comes and goes with')).toBeCloseTo(12, 0);
    expect(s.finding('Mean envelope')).toBeCloseTo(3, 2);
    expect(s.finding('Depth of it')).toBeGreaterThan(0.4);
    const curve = bandEnvelope(Float64Array.from(x), [600, 800], rate);
    for (let i = 4000; i < 8000; i += 7)
      expect(curve[i]).toBeCloseTo(3 + 1.5 * Math.sin((2 * Math.PI * 12 * i) / rate), 2);
  });
  test('of what lies outside the band nothing is left; bands that cannot be are refused', () => {
    const x = Float64Array.from(timed(rate, 4, (t) => Math.sin(2 * Math.PI * 100 * t)));
    expect(Math.max(...bandEnvelope(x, [900, 1100], rate).subarray(2000, 14_000))).toBeLessThan(1e-6);
    expect(() => bandEnvelope(x, [900, 300], rate)).toThrow(/first has to lie below/);
    expect(() => bandEnvelope(x, [900, 2300], rate)).toThrow(/between 0 and 2000 Hz/);
  });
});

describe('results of several takes as one', () => {
  const result = (value: number, unit = 'kN'): StudyResult => ({
    findings: [{ label: 'Mean', value, unit }],
    figures: [
      {
        title: 'Curve',
        x: { label: 'Time', unit: 's', scale: 'linear' },
        y: { label: 'y', unit, scale: 'linear' },
        marks: [{ mark: 'line', name: 'Load', x: { from: 0, step: 1, length: 2 }, y: [value, value] }],
      },
    ],
    tables: [],
  });
  const outcome = (name: string, r: StudyResult | null, fault: string | null = null) => ({
    take: name,
    name,
    result: r,
    fault,
  });

  test('the first that has one stands out; other units are not compared; faults have a column of their own', () => {
    const all = overTakes([outcome('A', null, 'no such channel'), outcome('B', result(2)), outcome('C', result(5)), outcome('D', result(7, 'N'))]); // prettier-ignore
    expect(all.findings).toEqual([{ label: 'Mean', value: 2, unit: 'kN' }]);
    expect(all.tables[0].columns.map((c) => c.label)).toEqual(['Take', 'Mean', 'Why not']);
    expect(all.tables[0].rows).toEqual([['A', null, 'no such channel'], ['B', 2, ''], ['C', 5, ''], ['D', null, '']]); // prettier-ignore
    const names = all.figures[0].marks.map((m) => ('name' in m ? m.name : ''));
    expect(names).toEqual(['C', 'B']);
  });
  test('alone it is what it was', () => {
    const alone = overTakes([outcome('A', result(2))]);
    expect(alone.findings).toHaveLength(1);
    expect(alone.figures[0].marks).toHaveLength(1);
    expect(alone.tables[0].columns.map((c) => c.label)).toEqual(['Take', 'Mean']);
  });
  test('at most a few of many are named in the legend', () => {
    const all = overTakes(Array.from({ length: 30 }, (_, k) => outcome(`T${k}`, result(k))));
    expect(all.figures[0].marks).toHaveLength(30);
    expect(all.figures[0].marks.filter((m) => 'name' in m && m.name)).toHaveLength(7);
    expect(all.findings.find((f) => f.label === 'Mean, highest of 30')).toMatchObject({
      value: 29,
      note: 'T29',
    });
  });
});

test('every kind says how its numbers are computed, and by what', () => {
  for (const { kind, method } of STUDY_KINDS) {
    expect(method.length, kind).toBeGreaterThan(0);
    for (const { says, source } of method) {
      expect(says, kind).toMatch(/\.$/);
      expect(source.length, kind).toBeGreaterThan(3);
    }
  }
});

describe('the averaged spectrum', () => {
  const rate = 1024;
  const tone = timed(rate, 16, (t) => 4 * Math.sin(2 * Math.PI * 64 * t));
  const study = (values: ArrayLike<number>, settings: Record<string, unknown> = {}) =>
    studied('spectrum', takeOf({ channels: [signalOf('x', values, { hz: rate })] }), {
      length: 1024,
      ...settings,
    });
  const curve = (s: ReturnType<typeof study>) => {
    const { x, y } = s.figures[0].marks[0] as unknown as {
      x: { from: number; step: number };
      y: Float64Array;
    };
    return { y, at: (hz: number) => y[Math.round((hz - x.from) / x.step)], from: x.from };
  };

  test('reads a tone as rms, peak and power, in the units that go with them', () => {
    expect(curve(study(tone, { shown: 'rms amplitude' })).at(64)).toBeCloseTo(4 / Math.SQRT2, 4);
    expect(curve(study(tone, { shown: 'peak amplitude' })).at(64)).toBeCloseTo(4, 4);
    const power = study(tone, { shown: 'power' });
    expect(curve(power).at(64)).toBeCloseTo(8, 4);
    expect(power.figures[0].y.unit).toBe('kN²');
  });

  test('the highest of each line holds what came once; the latest most forgets it', () => {
    const once = Float32Array.from(tone, (v, i) => (i < 2048 ? v : 0.001 * v));
    const highest = curve(study(once, { shown: 'peak amplitude', averaging: 'the highest of each line' })).at(
      64,
    );
    expect(highest).toBeCloseTo(4, 3);
    const mean = curve(study(once, { shown: 'peak amplitude' })).at(64);
    expect(mean).toBeLessThan(2);
    expect(curve(study(once, { shown: 'peak amplitude', averaging: 'averaged, the latest most', recent: 3 })).at(64)).toBeLessThan(mean / 10); // prettier-ignore
  });

  test('however it is averaged, what goes on alike reads alike, with odd and even numbers of segments', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 9 }),
        fc.constantFrom('Hann', 'Kaiser β 8.6', 'flat top'),
        (segments, window) => {
          const part = tone.subarray(0, 1024 * segments);
          const [a, b, c] = ['averaged', 'the highest of each line', 'averaged, the latest most'].map(
            (averaging) => curve(study(part, { averaging, window, overlap: 0 })).at(64),
          );
          expect(b / a).toBeCloseTo(1, 6);
          expect(c / a).toBeCloseTo(1, 6);
        },
      ),
      { numRuns: 30 },
    );
  });

  test('one segment of noise is the same whatever the averaging; the highest is never below the mean', () => {
    const x = noise(1024 * 7);
    const of = (averaging: string, n: number) =>
      curve(study(x.subarray(0, 1024 * n), { averaging, overlap: 0 })).y;
    of('averaged', 1).forEach((v, i) => expect(of('the highest of each line', 1)[i] / v).toBeCloseTo(1, 9));
    const [mean, highest] = [of('averaged', 7), of('the highest of each line', 7)];
    mean.forEach((v, i) => expect(highest[i]).toBeGreaterThanOrEqual(v * (1 - 1e-9)));
  });

  test('a narrow span is looked into with long segments; its ends are said; one out of order is refused', () => {
    const two = timed(rate, 300, (t) => Math.sin(2 * Math.PI * 100 * t) + Math.sin(2 * Math.PI * 100.05 * t));
    const s = study(two, { length: 262_144, fromHz: 99.8, upTo: 100.2, shown: 'rms amplitude' });
    const { y, from } = curve(s);
    expect(from).toBeGreaterThanOrEqual(99.8);
    const peaks = y.filter((v, i) => i > 0 && v > 0.5 && v > y[i - 1] && v >= (y[i + 1] ?? 0));
    expect(peaks).toHaveLength(2);
    expect(() => study(tone, { fromHz: 600 })).toThrow(/below 512 Hz/);
  });

  test('levels have their reference; the window says its bandwidth and what it reads too low', () => {
    const s = study(tone, { scale: 'levels in dB', reference: 0.001, shown: 'rms amplitude' });
    expect(s.figures[0].y).toMatchObject({ scale: 'decibel', reference: 0.001, power: false });
    expect(study(tone, { scale: 'levels in dB', reference: 0.001 }).figures[0].y).toMatchObject({ reference: 1e-6, power: true }); // prettier-ignore
    const [row] = s.table('Lines and averaging');
    expect(row['Noise bandwidth']).toBeCloseTo(1.5, 6);
    expect(row.Scalloping).toBeCloseTo(1.42, 2);
    expect(row['Scatter of a line']).toBeGreaterThan(10);
  });
});

describe('orders of a slow shaft', () => {
  const rate = 25_600;
  const seconds = 40;
  /** A shaft that runs up from 2 to 6 turns a second; orders 1 and 12, and a whistle that does not turn. */
  const turns = (t: number) => 2 * t + 0.05 * t * t;
  const study = (of: (t: number) => number) =>
    studied(
      'orders',
      takeOf({
        channel: [signalOf('Casing', timed(rate, seconds, of), { unit: 'm/s²', hz: rate })],
        speed: [
          signalOf(
            'Shaft',
            timed(100, seconds, (t) => 60 * (2 + 0.1 * t)),
            { unit: 'rpm', hz: 100 },
          ),
        ],
        pulses: [],
      }),
      { channel: 'Casing', speed: 'Shaft', highest: 16, revolutions: 8, cuts: '1, 3, 12' },
    );
  const cutOf = (s: ReturnType<typeof study>, order: number) =>
    (
      s.figures[1].marks.find((m) => 'name' in m && m.name === `Order ${order}`) as unknown as {
        y: Float64Array;
      }
    ).y;

  test('read as high as they are all the way, order 12 as well as order 1', () => {
    const s = study(
      (t) => 3 * Math.sin(2 * Math.PI * turns(t)) + 0.8 * Math.sin(2 * Math.PI * 12 * turns(t) + 0.5),
    );
    cutOf(s, 1).forEach((v) => expect(v).toBeCloseTo(3, 1));
    cutOf(s, 12).forEach((v) => expect(Math.abs(v - 0.8)).toBeLessThan(0.03));
    expect(Math.max(...cutOf(s, 3))).toBeLessThan(0.02);
  });

  test('a whistle of 9 kHz is no order, however slow the shaft turns', () => {
    const s = study((t) => 5 * Math.sin(2 * Math.PI * 9000 * t));
    for (const order of [1, 3, 12]) expect(Math.max(...cutOf(s, order))).toBeLessThan(0.02);
  });
});

describe('one over another', () => {
  test('a loop encloses its area: an ellipse π·a·b, each turn of it, positive clockwise', () => {
    const lag = 0.6;
    const way = timed(1000, 10, (t) => 3 * Math.sin(2 * Math.PI * t));
    const force = timed(1000, 10, (t) => 5 * Math.sin(2 * Math.PI * t + lag) + 2);
    const s = studied('relation', takeOf({ channel: [signalOf('Force', force, { hz: 1000 })], inputs: [signalOf('Way', way, { unit: 'mm', hz: 1000 })] })); // prettier-ignore
    expect(s.finding('Area of a loop')).toBeCloseTo(Math.PI * 3 * 5 * Math.sin(lag), 2);
    expect(s.findings.find((f) => f.label === 'Area of a loop')).toMatchObject({
      unit: 'kN·mm',
      note: 'mean of 8',
    });
    const each = s.figures.find((f) => f.title === 'Area of each loop')!.marks[0] as unknown as {
      y: Float64Array;
    };
    each.y.forEach((a) => expect(a).toBeCloseTo(Math.PI * 3 * 5 * Math.sin(lag), 2));
  });
  test('without a lag there is no area; a gap leaves out its loop alone; noise about the level makes no loops', () => {
    const way = timed(1000, 5, (t) => Math.sin(2 * Math.PI * t));
    expect(loopAreas(way, way, 0, 0.2).every((l) => Math.abs(l.area) < 1e-9)).toBe(true);
    const holed = way.slice();
    holed[1500] = NaN;
    expect(loopAreas(way, holed, 0, 0.2)).toHaveLength(loopAreas(way, way, 0, 0.2).length - 1);
    expect(loopAreas(noise(5000, 3, 0.01), noise(5000), 0, 0.5)).toEqual([]);
    expect(loopAreas([], [], 0, 1)).toEqual([]);
  });
});

describe('blocks of revolutions', () => {
  const rpm = signalOf(
    'Speed',
    timed(100, 20.02, (t) => 60 + 6 * t),
    { unit: 'rpm', hz: 100 },
  );
  const turns = (t: number) => t + 0.05 * t * t;
  /** Each revolution has its own level. */
  const level = signalOf(
    'Load',
    timed(1000, 20, (t) => Math.floor(turns(t) + 1e-9)),
    { hz: 1000 },
  );
  const study = (settings: Record<string, unknown> = {}) =>
    studied('blocks', takeOf({ channel: [level], speed: [rpm] }), { speed: 'Speed', turns: 1, ...settings });

  test('hold one revolution each, however fast it turns', () => {
    const rows = study().table('Blocks');
    expect(rows).toHaveLength(40);
    rows.forEach((r, k) => expect(Math.abs(Number(r.Mean) - k)).toBeLessThan(0.02));
    expect(rows.at(-1)!.Middle).toBeGreaterThan(19);
  });
  test('of several turns hold as many; more than there are is refused; by time it is as it was', () => {
    expect(study({ turns: 4 }).table('Blocks')).toHaveLength(10);
    expect(() => study({ turns: 99 })).toThrow(/does not turn so often/);
    expect(
      studied('blocks', takeOf({ channel: [level], speed: [] }), { block: 2 }).table('Blocks'),
    ).toHaveLength(10);
  });
});

test('events tell their spans, for the time axis of the take', () => {
  const gate = timed(100, 10, (t) => (t % 4 >= 1 && t % 4 < 2 ? 5 : 0));
  const s = studied('events', takeOf({ channel: [signalOf('Gate', gate, { unit: 'V' })], others: [] }), {
    test: 'is above',
    level: 2,
  });
  expect(s.spans).toEqual(
    [1, 5, 9].map((from, k) => ({ fromS: from, toS: from + 1, says: `Gate is above 2 V (${k + 1} of 3)` })),
  );
});

describe('spectra beside each other', () => {
  const rate = 2000;
  /** 50 Hz of 2 in the first half, 300 Hz of 1 in the second. */
  const values = timed(rate, 20, (t) =>
    t < 10 ? 2 * Math.sin(2 * Math.PI * 50 * t) : Math.sin(2 * Math.PI * 300 * t),
  );
  const study = (settings: Record<string, unknown> = {}) =>
    studied(
      'spectrum-over-time',
      takeOf({ channel: [signalOf('Deck', values, { unit: 'm/s²', hz: rate })] }),
      settings,
    );

  test('the rms in a band over time is that of what lies in it then', () => {
    const s = study({ bandFrom: 250, bandTo: 350 });
    const figure = s.figures.find((f) => f.title === 'Rms from 250 to 350 Hz')!;
    expect(figure.y.unit).toBe('m/s²');
    const { x, y } = figure.marks[0] as unknown as { x: { from: number; step: number }; y: Float64Array };
    y.forEach((v, i) => {
      const at = x.from + i * x.step;
      if (at < 9) expect(v).toBeLessThan(0.02);
      if (at > 11 && at < 19) expect(v).toBeCloseTo(Math.SQRT1_2, 1);
    });
    expect(() => study({ bandFrom: 300, bandTo: 300 })).toThrow(/above 300 Hz/);
    expect(study().figures).toHaveLength(3);
  });

  test('as a stack of lines each stands at its time and rises where the picture is dark', () => {
    const [figure] = study({ drawn: 'stack of lines' }).figures;
    expect(figure.marks.length).toBeLessThanOrEqual(60);
    expect(figure.title).toMatch(/√\(\(m\/s²\)²\/Hz\)/);
    const lines = figure.marks as unknown as { x: { from: number; step: number }; y: Float64Array }[];
    const peak = (k: number) => {
      const { x, y } = lines[k];
      return x.from + x.step * y.indexOf(y.reduce((a, b) => Math.max(a, b)));
    };
    expect(Math.abs(peak(3) - 50)).toBeLessThan(3);
    expect(Math.abs(peak(lines.length - 4) - 300)).toBeLessThan(3);
    const floors = lines.map(({ y }) => y.reduce((a, b) => Math.min(a, b)));
    floors.forEach((f, k) => k && expect(f).toBeGreaterThan(floors[k - 1]));
  });

  test('orders over the speed: rows rise with it, whichever way it ran', () => {
    const down = (t: number) => 30 * t - 1.2 * t * t;
    const s = studied(
      'orders',
      takeOf({
        channel: [
          signalOf(
            'Casing',
            timed(2000, 10, (t) => Math.sin(2 * Math.PI * 2 * down(t))),
            { hz: 2000 },
          ),
        ],
        speed: [
          signalOf(
            'Shaft',
            timed(100, 10, (t) => 60 * (30 - 2.4 * t)),
            { unit: 'rpm', hz: 100 },
          ),
        ],
        pulses: [],
      }),
      { channel: 'Casing', speed: 'Shaft', over: 'speed' },
    );
    const [figure] = s.figures;
    expect(figure.y).toMatchObject({ label: 'Speed', unit: 'rpm' });
    const heat = figure.marks[0] as unknown as { y: Float64Array };
    heat.y.forEach((v, k) => k && expect(v).toBeGreaterThan(heat.y[k - 1]));
    expect(heat.y[0]).toBeLessThan(700);
    expect(heat.y.at(-1)).toBeGreaterThan(1500);
    expect(s.finding('Strongest order')).toBeCloseTo(2, 6);
  });
});

test('the cross spectrum alone is what both have in common, with their phase', () => {
  const x = noise(65_536);
  const late = x.map((_, i) => 2 * (x[i - 4] ?? 0));
  const s = studied('frequency-response', takeOf({ reference: [signalOf('x', x, { hz: 1000 })], responses: [signalOf('y', late, { hz: 1000 })] }), { reference: 'x', responses: ['y'], estimate: 'cross spectrum' }); // prettier-ignore
  const [magnitude, phase, coherence] = s.figures.map(
    (f) => (f.marks[0] as unknown as { y: Float64Array }).y,
  );
  expect(s.figures[0].y.unit).toBe('kN²/Hz');
  // White noise of 1: one-sided 2/f_s, doubled by the factor.
  const mean = magnitude.subarray(10, 500).reduce((a, b) => a + b, 0) / 490;
  expect(mean).toBeCloseTo((2 * 2) / 1000, 4);
  expect(phase[99]).toBeCloseTo(-360 * 4 * (100 / 1024), 0);
  expect(coherence[99]).toBeGreaterThan(0.97);
});
