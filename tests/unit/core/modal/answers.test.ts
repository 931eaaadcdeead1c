import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Powers, alike, impulses, responsesOf } from '$core/modal/answers';
import { halfSpectra } from '$core/modal/half-spectra';
import { HIT_RULE, findHits, standsAt } from '$core/modal/hits';
import { Random } from '$core/random';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';

// What is solved for here is known in closed form: spectra are made line by line from responses that are given.
const LINES = 9;
type Pair = readonly [number, number];
const times = ([a, b]: Pair, [c, d]: Pair): Pair => [a * c - b * d, a * d + b * c];
const spectrum = (of: (k: number) => Pair) => Float64Array.from({ length: 2 * LINES }, (_, n) => of(n >> 1)[n & 1]); // prettier-ignore
const gauss = (random: Random): Pair => [random.gauss(), random.gauss()];
/** A given response of an answer to a force at a line. */
const H = (i: number, q: number, k: number): Pair => [1 + i - 0.3 * k, 0.5 * q - 0.2 * k * (i + 1)];

function frames(count: number, forces: number, noise: { answer?: number; force?: number }, seed = 1): Powers {
  const random = new Random(seed);
  const powers = new Powers(2, forces, LINES);
  for (let n = 0; n < count; n++) {
    const f = Array.from({ length: forces }, () => Array.from({ length: LINES }, () => gauss(random)));
    const y = [0, 1].map((i) =>
      spectrum((k) => {
        const own = f.map((x, q) => times(H(i, q, k), x[k]));
        const e = gauss(random);
        const a = noise.answer ?? 0;
        return [own.reduce((s, v) => s + v[0], a * e[0]), own.reduce((s, v) => s + v[1], a * e[1])];
      }),
    );
    const seen = f.map((x) =>
      spectrum((k) => {
        const e = gauss(random);
        const a = noise.force ?? 0;
        return [x[k][0] + a * e[0], x[k][1] + a * e[1]];
      }),
    );
    powers.together(y, seen);
  }
  return powers;
}
const at = (found: { re: Float64Array; im: Float64Array }, i: number, q: number, k: number, m: number): Pair => [found.re[(i * m + q) * LINES + k], found.im[(i * m + q) * LINES + k]]; // prettier-ignore
const off = ([a, b]: Pair, [c, d]: Pair) => Math.hypot(a - c, b - d);

describe('frequency responses of powers', () => {
  test.each([1, 2, 3])(
    'without noise they are the given ones, for %i forces at once, and all is explained',
    (m) => {
      const found = responsesOf(frames(8, m, {}), true);
      for (let i = 0; i < 2; i++)
        for (let q = 0; q < m; q++)
          for (let k = 0; k < LINES; k++) {
            expect(off(at(found, i, q, k, m), H(i, q, k)), `${i} ${q} ${k}`).toBeLessThan(1e-9);
            expect(found.coherence[(i * m + q) * LINES + k]).toBeCloseTo(1, 6);
          }
    },
  );

  test('noise in the answers bends nothing, and shows in the coherence as it must: γ² = 1/(1 + noise/signal)', () => {
    const found = responsesOf(frames(4000, 1, { answer: 2 }), true);
    for (let k = 0; k < LINES; k++) {
      const h = H(0, 0, k);
      expect(off(at(found, 0, 0, k, 1), h)).toBeLessThan(0.15);
      const size = h[0] ** 2 + h[1] ** 2;
      expect(Math.abs(found.coherence[k] - size / (size + 4))).toBeLessThan(0.04);
    }
  });

  test('noise in the force makes them smaller by just its share: H₁ = H/(1 + noise/signal)', () => {
    const found = responsesOf(frames(4000, 1, { force: 1 }), true);
    for (let k = 0; k < LINES; k++) {
      const h = H(1, 0, k);
      expect(off(at(found, 1, 0, k, 1), [h[0] / 2, h[1] / 2])).toBeLessThan(0.08 * Math.hypot(...h) + 0.02);
    }
  });

  test('two forces that say the same claim nothing, and are recognised; those of their own are not', () => {
    const random = new Random(3);
    const powers = new Powers(1, 2, LINES);
    for (let n = 0; n < 6; n++) {
      const x = spectrum(() => gauss(random));
      powers.together([x], [x, x]);
    }
    expect(alike(powers, 0, 1)).toBeCloseTo(1, 9);
    const found = responsesOf(powers, true);
    expect([...found.re, ...found.im, ...found.coherence].every((v) => v === 0)).toBe(true);
    expect(alike(frames(400, 2, {}), 0, 1)).toBeLessThan(0.02);
  });

  test('a force that has nothing left at some lines claims nothing there, and says how far it reaches', () => {
    const powers = new Powers(1, 1, LINES);
    const random = new Random(5);
    for (let n = 0; n < 5; n++) {
      const f = spectrum((k) => (k <= 3 ? gauss(random) : k <= 5 ? [1e-2, 0] : [1e-9, 0]));
      powers.alone([spectrum((k) => times(H(0, 0, k), [f[2 * k], f[2 * k + 1]]))], f, 0);
    }
    const found = responsesOf(powers, false);
    expect(found.reach).toEqual([3]);
    for (let k = 0; k < LINES; k++)
      expect(off(at(found, 0, 0, k, 1), k <= 5 ? H(0, 0, k) : [0, 0]), `${k}`).toBeLessThan(1e-9);
    expect(found.coherence[8]).toBe(0);
  });

  test('what was added can be taken off again, whatever it was', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 3 }), (seed, m) => {
        const [all, part] = [frames(5, m, { answer: 0.5 }, seed), frames(3, m, {}, seed + 1)];
        const before = [all.yy.slice(), all.yf.im.slice(), all.ff.re.slice()];
        all.add(part).add(part, -1);
        [all.yy, all.yf.im, all.ff.re].forEach((x, n) => x.forEach((v, k) => expect(v).toBeCloseTo(before[n][k], 8))); // prettier-ignore
        expect(all.frames).toEqual(new Array(m).fill(5));
      }),
      { numRuns: 40 },
    );
  });

  test('impulse responses and their half spectra are each other’s, below where they are faded out', () => {
    const [lines, lags, dtS] = [65, 128, 0.01];
    // A decay that has died out: 1/(jω − s) and its conjugate.
    const [re, im] = [new Float64Array(lines), new Float64Array(lines)];
    for (let k = 0; k < lines; k++) {
      const w = (2 * Math.PI * k) / (lags * dtS);
      for (const s of [60, -60]) {
        const [a, b] = [9, w - s];
        re[k] += a / (a * a + b * b);
        im[k] -= b / (a * a + b * b);
      }
    }
    const values = impulses({ re, im }, lines, lags, dtS);
    const back = halfSpectra({ responses: 1, references: 1, lags, dtS, values, driven: { resonant: 're' } });
    expect(back.lags).toBeNull();
    for (let k = 1; k < 0.8 * 64; k++) expect(off([back.re[k], back.im[k]], [re[k], im[k]]), `${k}`).toBeLessThan(1e-9); // prettier-ignore
    // It begins at once, rings with its own frequency and decays with its own rate.
    const peak = (from: number, to: number) => values.subarray(from, to).reduce((m, v) => Math.max(m, Math.abs(v)), 0); // prettier-ignore
    expect(peak(1, 12)).toBeGreaterThan(1.2);
    expect(peak(40, 60) / peak(10, 30)).toBeCloseTo(Math.exp(-9 * 0.3), 1);
  });
});

describe('finding hits', () => {
  const RATE = 1000;
  const FRAME = 400;
  const BEFORE = 20;
  const force = (values: Float32Array) => sampledOf({ id: 'f', name: 'f', quantity: 'force', unit: 'N', rate: rateFromHz(RATE), startNs: 0, width: 1 }, values); // prettier-ignore
  const find = (values: Float32Array, level = 0.1, scale = 1) =>
    findHits([force(values)], { first: [0], count: values.length, rate: RATE, fromS: 5, record: 0 }, [scale], { level, frame: FRAME, before: BEFORE }, { aborted: false }); // prettier-ignore
  /** Half sines of 8 samples on an offset with noise. */
  const train = (pulses: { at: number; size: number }[], offset = 0, noise = 0.001) => {
    const random = new Random(2);
    const out = Float32Array.from({ length: 6000 }, () => offset + noise * random.gauss());
    for (const { at, size } of pulses) for (let k = 0; k < 8; k++) out[at + k] += size * Math.sin((Math.PI * (k + 0.5)) / 8); // prettier-ignore
    return out;
  };

  test('every pulse that stands apart is found where it begins, whatever its sign, the offset and the unit', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ gap: fc.integer({ min: FRAME, max: 700 }), size: fc.double({ min: 0.5, max: 1, noNaN: true }) }), { minLength: 1, maxLength: 7 }), // prettier-ignore
        fc.constantFrom(1, -1),
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.constantFrom(1, 1000),
        (list, sign, offset, scale) => {
          let at = 50;
          const pulses = list.map(({ gap, size }) => ({ at: (at += gap), size: sign * size }));
          const hits = find(train(pulses, offset), 0.1, scale);
          expect(hits).toHaveLength(pulses.length);
          hits.forEach((h, n) => {
            expect(Math.abs(h.at - pulses[n].at)).toBeLessThan(3);
            expect(h.atS).toBeCloseTo(5 + h.at / RATE, 9);
            expect(h.peak / scale / pulses[n].size).toBeGreaterThan(0.95);
            expect(h.peak / scale / pulses[n].size).toBeLessThan(1.05);
            expect(h.widthS * RATE).toBeGreaterThan(3);
            expect(h.widthS * RATE).toBeLessThan(8);
            expect(h.faults).toEqual([]);
          });
        },
      ),
      { numRuns: 60 },
    );
  });

  test.each([
    ['within its frame', 150, ['struck twice']],
    ['so soon that it is the same pulse ringing', 12, []],
    ['after its frame', 390, []],
  ] as const)('a second one, weaker, %s', (_, after, faults) => {
    const [first] = find(train([{ at: 500, size: 1 }, { at: 500 + after, size: 0.3 }])); // prettier-ignore
    expect(first.faults).toEqual(faults);
  });
  test('one of a twentieth is no second strike; one of a fifth is', () => {
    const twice = (size: number) => find(train([{ at: 500, size: 1 }, { at: 650, size }]))[0].faults; // prettier-ignore
    expect(twice(0.05)).toEqual([]);
    expect(twice(0.2)).toEqual(['struck twice']);
    expect(HIT_RULE).toContain('a tenth');
  });
  test('too close to either end it is cut short; a missing sample is said', () => {
    expect(find(train([{ at: 5, size: 1 }]))[0].faults).toEqual(['cut short']);
    expect(find(train([{ at: 5800, size: 1 }]))[0].faults).toEqual(['cut short']);
    const gap = train([{ at: 1000, size: 1 }]);
    gap[1100] = NaN;
    expect(find(gap)[0].faults).toEqual(['a sample is missing']);
  });
  test('noise, a sine, a step and nothing at all strike nothing', () => {
    const random = new Random(8);
    const of = (f: (k: number) => number) => find(Float32Array.from({ length: 6000 }, (_, k) => f(k)));
    expect(of(() => random.gauss())).toEqual([]);
    expect(of((k) => Math.sin(k / 20))).toEqual([]);
    expect(of((k) => (k < 3000 ? 0 : 10))).toEqual([]);
    expect(of(() => 0)).toEqual([]);
    expect(of(() => NaN)).toEqual([]);
  });
  test('standing at the largest value: three in a row, not two, and not at another', () => {
    expect(standsAt([0, 5, 5, 5, 1], 5)).toBe(true);
    expect(standsAt([0, 5, 5, 1, 5, 5], 5)).toBe(false);
    expect(standsAt([0, 4, 4, 4, 1], 5)).toBe(false);
    expect(standsAt([0, -5, -5, -5], 5)).toBe(true);
    expect(standsAt([5, -5, 5, -5], 5)).toBe(false);
    expect(standsAt([0, 0, 0, 0], 0)).toBe(false);
    expect(standsAt([NaN, NaN, NaN], 5)).toBe(false);
  });
});
