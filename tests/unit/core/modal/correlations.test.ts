import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { advised } from '$core/modal/advice';
import {
  Correlator,
  leftAtEnd,
  meanOfBlocks,
  windowDecay,
  windowed,
  type Correlating,
} from '$core/modal/correlations';
import { Decimator } from '$core/modal/decimator';
import { gathered, type GatherOptions, type ModalRecord } from '$core/modal/gather';
import { halfSpectra, kernel, sOf, within } from '$core/modal/half-spectra';
import {
  evenSumOf,
  mutualCoherence,
  onPeak,
  peaksOf,
  suggestedBands,
  sumOf,
  valleyNear,
} from '$core/modal/indicators';
import { mergedShape } from '$core/modal/merge';
import { met, shapesOf, together } from '$core/modal/residues';
import { jackknife } from '$core/modal/scatter';
import { mac, meanPhase, normalised, phaseDeviation, realness, type Shape } from '$core/modal/shape';
import { numberOfFact, tracksOf } from '$core/modal/tracks';
import { bestOf, sameMode, type JudgedOrder } from '$core/modal/stability';
import { Random } from '$core/random';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';

const GO_ON = { aborted: false };
const random = (seed: number, n: number) => {
  const r = new Random(seed);
  return Float32Array.from({ length: n }, () => r.gauss());
};
const signal = (name: string, values: Float32Array, unit = 'm/s²', hz = 100) =>
  sampledOf({ id: name, name, quantity: '', unit, rate: rateFromHz(hz), startNs: 0, width: 1 }, values);
const record = (...values: Float32Array[]): ModalRecord => ({
  name: 'made',
  responses: values.map((v, i) => signal(`r${i}`, v)),
  fromS: 0,
  toS: null,
});
const OPTIONS: GatherOptions = {
  references: [0],
  lags: 64,
  factor: 1,
  detrend: 'nothing',
  method: 'over the whole span',
};
const gather = (records: ModalRecord[], change: Partial<GatherOptions> = {}) =>
  gathered(records, { ...OPTIONS, ...change }, () => undefined, GO_ON);

/** The definition: Σ y(t + k)·x(t) over all t that are there, divided by how many. */
const direct = (y: Float32Array, x: Float32Array, k: number, count: number) => {
  let sum = 0;
  for (let t = 0; t < count; t++) sum += y[t + k] * x[t];
  return sum / count;
};

describe('correlating', () => {
  test('over the whole span it is the definition, lag by lag, whatever pieces the samples come in', () => {
    const [lags, piece] = [32, 96];
    const count = 7 * piece;
    const x = random(1, count + lags - 1);
    const y = Float32Array.from(random(2, count + lags - 1), (v, i) => v + (i >= 5 ? 0.8 * x[i - 5] : 0));
    const z = random(3, count + lags - 1);
    const c = new Correlator({
      responses: 3,
      references: [0, 2],
      lags,
      dtS: 0.01,
      method: 'over the whole span',
    });
    for (let at = 0; at < x.length; at += 53) c.push([x, y, z].map((v) => v.subarray(at, at + 53)));
    const { values, pieces } = c.block();
    expect(pieces).toBe(7);
    [x, y, z].forEach((response, i) =>
      [x, z].forEach((reference, r) => {
        for (let k = 0; k < lags; k++)
          expect(values[(i * 2 + r) * lags + k]).toBeCloseTo(direct(response, reference, k, count), 9);
      }),
    );
  });

  test.each<Correlating>(['over the whole span', 'by averaged segments'])(
    '%s: noise of variance 4 that comes 5 samples later',
    (method) => {
      const n = 120_000;
      const x = random(7, n).map((v) => 2 * v);
      const y = Float32Array.from({ length: n }, (_, i) => (i >= 5 ? x[i - 5] : 0));
      const { set } = gather([record(x, y)], { method });
      const at = (i: number, k: number) => set.values[i * 64 + k];
      expect(at(0, 0)).toBeCloseTo(4, 0);
      expect(at(1, 5) / at(0, 0)).toBeCloseTo(1, 2);
      for (const k of [1, 9, 40]) expect(Math.abs(at(0, k))).toBeLessThan(0.1);
    },
  );

  test('a piece with a missing sample is left out and said; the others count', () => {
    const x = random(3, 20_000);
    const whole = gather([record(x, x)]);
    const holed = x.slice();
    holed[5000] = NaN;
    const { pieces, skipped, says, set } = gather([record(x, holed)]);
    expect(skipped).toBeGreaterThan(0);
    expect(pieces + skipped).toBe(whole.pieces);
    expect(says.join()).toMatch(/left out because a sample is missing/);
    expect(set.values.every(Number.isFinite)).toBe(true);
  });

  test('several spans are one result; a piece never goes over their border', () => {
    const [a, b] = [random(1, 5000), random(2, 5000).map((v) => v + 100)];
    const both = gather([record(a, a), record(b, b)], { detrend: 'its mean' });
    expect(both.set.values[0]).toBeCloseTo(1, 1);
    expect(both.pieces).toBe(gather([record(a, a)]).pieces + gather([record(b, b)]).pieces);
  });

  test('a straight line is taken away, and gaps do not shift it', () => {
    const n = 20_000;
    const x = Float32Array.from(random(4, n), (v, i) => v + 30 + (50 * i) / n);
    x.fill(NaN, 9000, 9100);
    const { set } = gather([record(x, x)], { detrend: 'a straight line' });
    expect(set.values[0]).toBeCloseTo(1, 1);
    expect(Math.abs(set.values[50])).toBeLessThan(0.05);
  });

  test('units of one kind come to that of the first, and it is said; of another kind they are refused with what to do', () => {
    const x = random(5, 20_000);
    const mm = {
      ...record(x, x),
      responses: [
        signal('a', x, 'm/s²'),
        signal(
          'b',
          x.map((v) => v * 1000),
          'mm/s²',
        ),
      ],
    };
    const { set, says, notes } = gather([mm]);
    expect(set.values[64] / set.values[0]).toBeCloseTo(1, 5);
    // How it was made is no doubt about it.
    expect(notes.join()).toMatch(/b: brought to m\/s²/);
    expect(says.join()).not.toMatch(/brought/);
    expect(() => gather([{ ...mm, responses: [signal('a', x), signal('b', x, 'bar')] }])).toThrow(
      /choose responses of one kind/,
    );
    expect(() => gather([{ ...mm, responses: [signal('a', x), signal('b', x, 'm/s²', 50)] }])).toThrow(
      /of one rate/,
    );
  });

  test('what is dead, clipped or blind is said; a dead reference is refused', () => {
    const x = random(6, 20_000);
    const dead = new Float32Array(20_000).fill(3);
    const clipped = x.map((v) => Math.max(-0.5, Math.min(0.5, v)));
    const other = random(8, 20_000);
    const { says } = gather([record(x, x, dead, clipped)], { detrend: 'its mean' });
    expect(says.join(' ')).toMatch(/r2 does not move/);
    expect(says.join(' ')).toMatch(/r3 stands at its largest value \d+ times: it is clipped/);
    expect(() => gather([record(dead, x)], { detrend: 'its mean' })).toThrow(/does not move at all/);
    expect(gather([record(x, x, other)], { references: [0, 2] }).says.join()).toMatch(
      /r2 sees next to nothing/,
    );
  });

  test('too short, cancelled, and lags that are none', () => {
    const x = random(9, 150);
    expect(() => gather([record(x, x)])).toThrow(/longer span or fewer lags/);
    expect(() => gathered([record(x, x)], OPTIONS, () => undefined, { aborted: true })).not.toThrow(/fewer/);
    for (const lags of [0, 7, 100, 1.5])
      expect(() => gather([record(x, x)], { lags })).toThrow(/power of two/);
  });

  test('more pairs than are held at once are refused with what to do; many are cut into fewer blocks', () => {
    const x = random(4, 30_000);
    const many = record(...Array.from({ length: 40 }, () => x));
    const references = Array.from({ length: 16 }, (_, k) => k);
    expect(() => gather([many], { references, lags: 4096 })).toThrow(
      /fewer references, fewer lags or fewer responses/,
    );
    expect(gather([many], { references: [0] }).blocks.length).toBeGreaterThan(4);
    const large = record(...Array.from({ length: 40 }, () => random(5, 9000)));
    expect(gather([large], { references, lags: 2048 }).blocks.length).toBeLessThanOrEqual(6);
  });

  test('one sample of four: what lies below passes, what would fold is gone', () => {
    const n = 40_000;
    const tone = (hz: number) =>
      Float32Array.from({ length: n }, (_, i) => Math.sin((2 * Math.PI * hz * i) / 100));
    const power = (hz: number) => {
      const out = new Decimator(4).push(tone(hz));
      return Math.sqrt((2 * out.reduce((s, v) => s + v * v, 0)) / out.length);
    };
    expect(power(3)).toBeCloseTo(1, 3);
    expect(power(9.9)).toBeCloseTo(1, 2);
    for (const hz of [12.6, 22, 31, 45]) expect(power(hz)).toBeLessThan(2e-5);
    const pieces = new Decimator(4);
    const x = random(2, 4000);
    const parts = [0, 700, 1501, 2600].flatMap((from, k, all) => [
      ...pieces.push(x.subarray(from, all[k + 1] ?? 4000)),
    ]);
    expect(parts).toEqual([...new Decimator(4).push(x)]);
  });
});

/** Correlations of modes that are known, with one reference or more. */
function known(
  modes: { hz: number; damping: number; shape: number[]; part: number[] }[],
  lags: number,
  dtS: number,
) {
  const [l, m] = [modes[0].shape.length, modes[0].part.length];
  const values = new Float64Array(l * m * lags);
  for (const { hz, damping, shape, part } of modes) {
    const [sr, si] = sOf({ hz, damping });
    for (let i = 0; i < l; i++)
      for (let r = 0; r < m; r++)
        for (let k = 0; k < lags; k++)
          values[(i * m + r) * lags + k] +=
            2 * shape[i] * part[r] * Math.exp(sr * k * dtS) * Math.cos(si * k * dtS);
  }
  return { responses: l, references: m, lags, dtS, values };
}
const pole = (hz: number, damping: number, part: number[]) => ({
  hz,
  damping,
  participation: { re: Float64Array.from(part), im: new Float64Array(part.length) },
});

describe('half spectra, shapes and residuals', () => {
  const dtS = 1 / 128;
  const inside = [
    { hz: 20, damping: 0.01, shape: [1, 0.5, -0.3], part: [1, 0.2] },
    { hz: 24, damping: 0.015, shape: [0.4, -1, 0.6], part: [-0.3, 1] },
  ];
  test('a decaying exponential that is cut off is one pole exactly', () => {
    const set = known([inside[0]], 256, dtS);
    const lines = halfSpectra(set);
    const [a, b] = [kernel(lines, sOf(inside[0])), kernel(lines, sOf(inside[0]), true)];
    lines.hz.forEach((_, k) => {
      expect(lines.re[k]).toBeCloseTo(a.re[k] + b.re[k], 9);
      expect(lines.im[k]).toBeCloseTo(a.im[k] + b.im[k], 9);
    });
  });
  test('shapes come back exactly, and the functions put together again are those that were', () => {
    const set = known(inside, 512, dtS);
    const lines = within(halfSpectra(set), 15, 30);
    const model = shapesOf(
      lines,
      inside.map((m) => pole(m.hz, m.damping, m.part)),
      'no residuals',
      0,
    );
    model.modes.forEach((m, k) => inside[k].shape.forEach((v, i) => expect(m.shape.re[i]).toBeCloseTo(v, 6)));
    const made = together(lines, model, 1, 0, 2, 0);
    const n = lines.hz.length;
    made.re.forEach((v, k) => expect(v).toBeCloseTo(lines.re[2 * n + k], 9));
    expect(Math.min(...met(lines, model, 0))).toBeCloseTo(1, 9);
  });
  test.each([
    [12, 'below'],
    [33, 'above'],
  ])(
    'a mode just outside the band, at %i Hz %s it, does not spoil one inside: both residuals take it up',
    (hz) => {
      const outside = { hz, damping: 0.01, shape: [2, 2, 2], part: [1, 1] };
      const lines = within(halfSpectra(known([...inside, outside], 512, dtS)), 15, 30);
      const poles = inside.map((m) => pole(m.hz, m.damping, m.part));
      const truth = inside.map((m) => ({ re: Float64Array.from(m.shape), im: new Float64Array(3) }));
      const bare = shapesOf(lines, poles, 'no residuals', 0);
      const both = shapesOf(lines, poles, 'both residuals', 0);
      truth.forEach((shape, k) => {
        expect(mac(both.modes[k].shape, shape)).toBeGreaterThan(0.9995);
        expect(mac(both.modes[k].shape, shape)).toBeGreaterThanOrEqual(mac(bare.modes[k].shape, shape));
      });
      expect(Math.min(...met(lines, both, 0))).toBeGreaterThan(Math.min(...met(lines, bare, 0)));
    },
  );
  test('two modes that the references cannot tell apart: said, and nothing is no number', () => {
    const lines = within(halfSpectra(known(inside, 512, dtS)), 15, 30);
    const model = shapesOf(lines, [pole(20, 0.01, [1, 0.2]), pole(20, 0.01, [1, 0.2])], 'no residuals', 0);
    expect(model.rankLoss).toBe(true);
    expect(model.modes.every((m) => m.shape.re.every(Number.isFinite))).toBe(true);
  });
  test('too many modes for the lines are refused', () => {
    const lines = within(halfSpectra(known(inside, 64, dtS)), 0, 20);
    const many = Array.from({ length: 60 }, (_, k) => pole(1 + k, 0.01, [1, 0]));
    expect(() => shapesOf(lines, many, 'both residuals', 0)).toThrow(/more unknowns/);
    expect(() => within(halfSpectra(known(inside, 64, dtS)), 20, 21)).toThrow(
      /Only 1 lines lie in it|lines lie in it/,
    );
  });
  test('a window of any strength shifts each pole by its decay, no more and no less', () =>
    fc.assert(
      fc.property(fc.double({ min: 1e-4, max: 1, noNaN: true }), (left) => {
        const set = known(inside, 256, dtS);
        const decay = windowDecay(left, 256, dtS);
        const lines = within(halfSpectra(windowed(set, decay)), 15, 30);
        const model = shapesOf(
          lines,
          inside.map((m) => pole(m.hz, m.damping, m.part)),
          'no residuals',
          decay,
        );
        expect(
          mac(model.modes[0].shape, { re: Float64Array.from(inside[0].shape), im: new Float64Array(3) }),
        ).toBeCloseTo(1, 8);
      }),
      { numRuns: 20 },
    ));
  test('what is left at the end: a share that the window lowers to what it is asked', () => {
    const set = known([{ hz: 20, damping: 1e-9, shape: [1], part: [1] }], 256, dtS);
    expect(leftAtEnd(set)[0]).toBeCloseTo(1, 1);
    const under = leftAtEnd(windowed(set, windowDecay(0.01, 256, dtS)))[0];
    expect(under).toBeGreaterThan(0.008);
    expect(under).toBeLessThan(0.02);
  });
});

describe('peaks and valleys', () => {
  const hz = Float64Array.from({ length: 400 }, (_, k) => k * 0.1);
  const values = hz.map(
    (f) =>
      0.01 +
      1 / (1 + ((f - 10) / 0.2) ** 2) +
      0.5 / (1 + ((f - 20) / 0.3) ** 2) +
      0.8 / (1 + ((f - 32) / 0.4) ** 2),
  );
  test('peaks where they are', () =>
    expect(peaksOf(values, 2).map((k) => Number(hz[k].toFixed(1)))).toEqual([10, 20, 32]));
  test('an edge snaps into the valley between, and a peak is known as one', () => {
    expect(hz[valleyNear(values, 140)]).toBeGreaterThan(12);
    expect(hz[valleyNear(values, 140)]).toBeLessThan(18);
    expect(onPeak(values, 101)).toBe(100);
    expect(onPeak(values, 150)).toBeNull();
  });
  test('suggested bands hold their peaks and end in valleys', () => {
    const bands = suggestedBands(hz, values);
    for (const f of [10, 20, 32]) expect(bands.some((b) => b.fromHz < f && b.toHz > f)).toBe(true);
    for (const b of bands)
      for (const edge of [b.fromHz, b.toHz]) expect(onPeak(values, Math.round(edge * 10))).toBeNull();
  });
});

describe('shapes', () => {
  const shape = (re: number[], im: number[] = re.map(() => 0)) => ({
    re: Float64Array.from(re),
    im: Float64Array.from(im),
  });
  test('a factor of any size and phase changes nothing of MAC and realness; normalised it is gone', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true })),
          { minLength: 2, maxLength: 8 },
        ),
        fc.double({ min: 0.1, max: 10, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (numbers, size, angle) => {
          const a = shape(
            numbers.map((n) => n[0]),
            numbers.map((n) => n[1]),
          );
          fc.pre(a.re.some((v) => Math.abs(v) > 0.1));
          const [c, s] = [size * Math.cos(angle), size * Math.sin(angle)];
          const b = shape(
            [...a.re].map((v, i) => v * c - a.im[i] * s),
            [...a.re].map((v, i) => v * s + a.im[i] * c),
          );
          expect(mac(a, b)).toBeCloseTo(1, 9);
          expect(realness(b)).toBeCloseTo(realness(a), 6);
          const largest = (x: Shape) => Math.max(...x.re.map((v, i) => Math.hypot(v, x.im[i])));
          expect(largest(normalised(b, 'largest is 1'))).toBeCloseTo(1, 9);
          expect(
            Math.hypot(...normalised(b, 'length is 1').re, ...normalised(b, 'length is 1').im),
          ).toBeCloseTo(1, 9);
        },
      ),
    ));
  test('a real shape is 1, a wave that turns 0; its phase and how far it strays', () => {
    expect(realness(shape([1, -2, 3]))).toBeCloseTo(1, 12);
    expect(realness(shape([1, 0, -1, 0], [0, 1, 0, -1]))).toBeCloseTo(0, 12);
    expect(meanPhase(shape([1, 2], [1, 2]))).toBeCloseTo(Math.PI / 4, 12);
    expect(phaseDeviation(shape([1, 2], [1, 2]))).toBeCloseTo(0, 6);
    expect(phaseDeviation(shape([1, 0], [0, 1]))).toBeGreaterThan(0.7);
  });
  test('set-ups that share sensors become one shape, whatever each was scaled by', () => {
    const truth = [1, -0.5, 0.8, 0.3, -1.2];
    const part = (at: number[], re: number, im: number) => ({
      names: at.map(String),
      shape: shape(
        at.map((i) => truth[i] * re),
        at.map((i) => truth[i] * im),
      ),
    });
    const {
      names,
      shape: whole,
      factors,
    } = mergedShape([part([0, 1, 2], 1, 0), part([1, 2, 3, 4], 0.5, -2)]);
    names.forEach((n, i) => {
      expect(whole.re[i]).toBeCloseTo(truth[Number(n)], 9);
      expect(whole.im[i]).toBeCloseTo(0, 9);
    });
    expect(Math.hypot(...factors[1])).toBeCloseTo(1 / Math.hypot(0.5, 2), 9);
    expect(() => mergedShape([part([0, 1], 1, 0), part([2, 3], 1, 0)])).toThrow(
      /keep some sensors where they are/,
    );
  });
  test('the jackknife of a mean is its standard error', () => {
    const x = [3, 5, 8, 1, 9, 4];
    const mean = x.reduce((s, v) => s + v, 0) / 6;
    const without = x.map((v) => (6 * mean - v) / 5);
    const deviation = Math.sqrt(x.reduce((s, v) => s + (v - mean) ** 2, 0) / 5);
    expect(jackknife(without)).toBeCloseTo(deviation / Math.sqrt(6), 12);
    expect(jackknife([1, 2])).toBeNaN();
  });
});

describe('picking', () => {
  const one = (hz: number, damping: number, rest: 0 | 1 | 2 | 3, re = [1, 0]) => ({
    hz,
    damping,
    rest,
    shape: { re: Float64Array.from(re), im: new Float64Array(2) },
    participation: { re: new Float64Array(1), im: new Float64Array(1) },
  });
  const orders: JudgedOrder[] = [
    { order: 2, left: { negative: 0, heavy: 0, real: 0, outside: 0 }, poles: [one(10.3, 0.05, 0)] },
    {
      order: 4,
      left: { negative: 0, heavy: 0, real: 0, outside: 0 },
      poles: [one(10.01, 0.011, 3), one(12, 0.02, 1)],
    },
    {
      order: 6,
      left: { negative: 0, heavy: 0, real: 0, outside: 0 },
      poles: [one(10, 0.01, 3), one(10.05, 0.03, 3)],
    },
  ];
  test('the best of a column rests, and is nearest to the median of those that do', () => {
    expect(bestOf(orders, 9.5, 10.5)).toEqual({ order: 4, index: 0 });
    expect(bestOf(orders, 11, 13)).toEqual({ order: 4, index: 1 });
    expect(bestOf(orders, 20, 30)).toBeNull();
  });
  test('the same mode is near and alike; one across it is not', () => {
    expect(sameMode(one(10, 0.01, 3), orders[2].poles, 0.01)).toBe(0);
    expect(sameMode(one(10, 0.01, 3, [0, 1]), orders[2].poles, 0.01)).toBeNull();
  });
});

test('references: of two parts that know nothing of each other, one from each is advised', () => {
  const n = 60_000;
  const [a, b] = [random(1, n), random(2, n)];
  const with_ = (x: Float32Array, seed: number) =>
    Float32Array.from(random(seed, n), (v, i) => x[i] + 0.2 * v);
  const made = record(with_(a, 3), with_(a, 4), with_(b, 5), with_(b, 6), with_(a, 7));
  const { advised: chosen, coherence } = advised(made, 1, () => undefined, GO_ON);
  expect(chosen.length).toBe(2);
  expect(new Set(chosen.map((i) => (i === 2 || i === 3 ? 'b' : 'a')))).toEqual(new Set(['a', 'b']));
  expect(coherence[0][1]).toBeGreaterThan(0.7);
  expect(coherence[0][2]).toBeLessThan(0.2);
  const { set } = gather([made], { references: [0, 1, 2], lags: 256 });
  const lines = halfSpectra(windowed(set, windowDecay(0.01, 256, 0.01)));
  const mutual = mutualCoherence(lines, [0, 1, 2]);
  expect(mutual[0][1]).toBeGreaterThan(mutual[0][2] + 0.4);
  // A pair that hardly moves counts in the even sum as much as the others.
  expect(evenSumOf(lines).length).toBe(sumOf(lines).length);
});

test('blocks: their mean weighs each by its pieces; none is refused', () => {
  expect([
    ...meanOfBlocks([
      { values: Float64Array.of(1), pieces: 1 },
      { values: Float64Array.of(4), pieces: 2 },
    ]),
  ]).toEqual([3]);
  expect(() => meanOfBlocks([{ values: Float64Array.of(1), pieces: 0 }])).toThrow(/long enough/);
});

describe('runs over what they differ by', () => {
  const shape = (...re: number[]) => ({ re: Float64Array.from(re), im: new Float64Array(re.length) });
  test('two modes that cross are followed by their shapes, not by their order', () => {
    const runs = [2, 0, 1, 3].map((at) => ({
      at,
      modes: [
        { hz: 10 + at, damping: 0.01, name: at === 0 ? 'bends' : '', shape: shape(1, 0.1 * at, 0) },
        { hz: 12 - at, damping: 0.02, name: at === 0 ? 'twists' : '', shape: shape(0, 1, 0.1) },
      ].sort((a, b) => a.hz - b.hz),
    }));
    const [bends, twists] = tracksOf(runs);
    expect(bends.name).toBe('bends');
    expect(bends.points.map((p) => [p.at, p.hz])).toEqual([
      [0, 10],
      [1, 11],
      [2, 12],
      [3, 13],
    ]);
    expect(twists.points.map((p) => p.hz)).toEqual([12, 11, 10, 9]);
    expect(Math.min(...bends.points.map((p) => p.mac))).toBeGreaterThan(0.9);
  });
  test('a mode that comes later begins a track; one that is not there in a run is passed over; none jumps too far', () => {
    const mode = (hz: number, ...re: number[]) => ({ hz, damping: 0.01, name: '', shape: shape(...re) });
    const tracks = tracksOf([
      { at: 1, modes: [mode(10, 1, 0)] },
      { at: 2, modes: [] },
      { at: 3, modes: [mode(10.5, 1, 0.1), mode(30, 0, 1)] },
      { at: 4, modes: [mode(20, 1, 0)] },
    ]);
    expect(tracks.map((t) => t.points.map((p) => p.at))).toEqual([[1, 3], [4], [3]]);
  });
  test.each([['2.4 m/s', 2.4, 'm/s'], ['−3,5', -3.5, ''], ['414 rpm', 414, 'rpm']])('“%s” says a number', (text, value, unit) => expect(numberOfFact(text)).toEqual({ value, unit })); // prettier-ignore
  test('what says none is none', () => expect(numberOfFact('bench')).toBeNull());
});
