import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MAKING_KINDS, makingKind, makingText } from '$core/making/registry';
import { unitAfter } from '$core/making/integrate';
import type { Made } from '$core/making/making';
import { endS, sampledOf, type Sampled } from '$core/samples/sampled';
import { signalOf, timed } from '../studies';

const GO = { aborted: false };
/** All values of what is made. */
function valuesOf(made: Made): Float32Array {
  const out = new Float32Array(made.length).fill(123456);
  let next = 0;
  for (const { first, values } of made.blocks(GO)) {
    expect(first, 'blocks come in their order, without holes').toBe(next);
    out.set(values, first);
    next = first + values.length;
  }
  expect(next).toBe(made.length);
  return out;
}
function make(
  kind: string,
  inputs: Sampled[] | Record<string, Sampled[]>,
  settings: Record<string, unknown> = {},
  all: Sampled[] = [],
): Made[] {
  const found = makingKind(kind);
  const roles = Array.isArray(inputs) ? { channels: inputs } : inputs;
  const ids = Object.fromEntries(Object.entries(roles).map(([key, of]) => [key, key === 'channels' ? of.map((s) => s.id) : of[0].id])); // prettier-ignore
  const parsed = found.sentence.schema.parse({ ...found.defaults, ...ids, ...settings });
  return found.make(roles, parsed, { named: (name) => all.find((s) => s.name === name) });
}
const tone = (hz: number, f: number, seconds = 4, size = 1) =>
  timed(hz, seconds, (t) => size * Math.sin(2 * Math.PI * f * t));

describe('filters', () => {
  test.each(['Butterworth', 'Chebyshev', 'inverse Chebyshev', 'Bessel', 'finite'])(
    '%s lets the slow tone pass where it is and takes the fast one out',
    (family) => {
      const both = tone(1000, 5).map((v, i) => v + tone(1000, 200)[i]);
      const [made] = make('filter', [signalOf('Load', both, { hz: 1000 })], {
        family,
        edge: 40,
        order: 4,
        taps: 301,
      });
      expect(made).toMatchObject({ name: 'Load, low pass 40 Hz', unit: 'kN', length: 4000 });
      const slow = tone(1000, 5);
      valuesOf(made)
        .subarray(500, 3500)
        .forEach((v, i) => expect(Math.abs(v - slow[i + 500])).toBeLessThan(family === 'Bessel' ? 0.02 : family === 'Chebyshev' ? 0.12 : 0.004)); // prettier-ignore
    },
  );

  test('forwards it is late, both ways it is not', () => {
    const peak = (ways: string) => {
      const bump = timed(500, 4, (t) => Math.exp(-(((t - 2) / 0.05) ** 2)));
      const out = valuesOf(make('filter', [signalOf('x', bump, { hz: 500 })], { edge: 10, ways })[0]);
      return out.indexOf(Math.max(...out)) / 500;
    };
    expect(peak('both ways, without delay')).toBeCloseTo(2, 2);
    expect(peak('forwards, as it would be live')).toBeGreaterThan(2.02);
  });

  test('a short gap is bridged and missing again, after a long one it begins anew; nothing leaks across', () => {
    const x = timed(100, 20, (t) => (t < 10 ? 1 : 5));
    x.fill(NaN, 300, 303); // shorter than a period of 5 Hz
    x.fill(NaN, 900, 1000); // longer
    for (const ways of ['both ways, without delay', 'forwards, as it would be live']) {
      const out = valuesOf(make('filter', [signalOf('x', x)], { edge: 5, ways })[0]);
      out.forEach((v, i) => {
        const missing = (i >= 300 && i < 303) || (i >= 900 && i < 1000);
        if (missing) expect(v).toBeNaN();
        else expect(v).toBeCloseTo(i < 1000 ? 1 : 5, 5);
      });
    }
  });

  test('what cannot be filtered: nothing at all, one sample, a constant, an edge beyond half the rate, taps without a middle', () => {
    expect(valuesOf(make('filter', [signalOf('x', [])], { edge: 5 })[0])).toHaveLength(0);
    expect([...valuesOf(make('filter', [signalOf('x', new Float32Array(50).fill(NaN))], { edge: 5 })[0])].every(Number.isNaN)).toBe(true); // prettier-ignore
    expect([...valuesOf(make('filter', [signalOf('x', [7])], { edge: 5 })[0])].map(Math.round)).toEqual([7]);
    expect(() => make('filter', [signalOf('x', [1, 2, 3])], { edge: 60 })).toThrow(/between 0 and 50 Hz/);
    expect(() => make('filter', [signalOf('x', [1, 2])], { band: 'band pass', edge: 20, upper: 10 })).toThrow(/first has to lie below/); // prettier-ignore
    expect(() => make('filter', [signalOf('x', [1, 2])], { family: 'finite', taps: 100, edge: 5 })).toThrow(
      /odd/,
    );
  });

  test('its response is what it does: drawn at a tone, measured on the tone', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('Butterworth', 'Chebyshev', 'inverse Chebyshev', 'Bessel', 'finite'),
        fc.integer({ min: 5, max: 80 }),
        (family, f) => {
          const settings = {
            ...makingKind('filter').defaults,
            family,
            edge: 30,
            attenuation: 40,
            taps: 101,
            channels: ['x'],
          };
          const figure = makingKind('filter').response!(settings, 500);
          const line = figure.marks[0] as unknown as { x: Float64Array; y: Float64Array };
          const k = line.x.findIndex((x) => x >= f);
          const between = (f - line.x[k - 1]) / (line.x[k] - line.x[k - 1]);
          const db = line.y[k - 1] + between * (line.y[k] - line.y[k - 1]);
          const out = valuesOf(
            make('filter', [signalOf('x', tone(500, f, 8), { hz: 500 })], settings)[0],
          ).subarray(1000, 3000);
          const rms = Math.sqrt(out.reduce((sum, v) => sum + v * v, 0) / out.length);
          expect(Math.abs(rms * Math.SQRT2 - 10 ** (db / 20))).toBeLessThan(0.01);
        },
      ),
      { numRuns: 15 },
    );
  });

  test('it stops where it is told to', () => {
    const signal = { aborted: false };
    const [made] = make('filter', [signalOf('x', new Float32Array(300_000), { hz: 1000 })]);
    const blocks = made.blocks(signal)[Symbol.iterator]();
    blocks.next();
    signal.aborted = true;
    expect(() => blocks.next()).toThrow(/Cancelled/);
  });
});

describe('smoothing', () => {
  test('a median takes single outliers out and leaves a step a step, a mean does neither', () => {
    const x = timed(100, 4, (t) => (t < 2 ? 0 : 1));
    x[100] = 50;
    const by = (way: string) => valuesOf(make('smooth', [signalOf('x', x)], { by: way, span: 0.1 })[0]);
    expect(by('median')[100]).toBe(0);
    expect([by('median')[199], by('median')[200]]).toEqual([0, 1]);
    expect(by('mean')[100]).toBeCloseTo(50 / 11, 5);
    expect(by('mean')[200]).toBeCloseTo(6 / 11, 5);
    expect(() => make('smooth', [signalOf('x', x)], { span: 0.001 })).toThrow(/at least 0.02 s/);
    expect(() =>
      make('smooth', [signalOf('x', x)], { by: 'local polynomial', span: 0.04, order: 6 }),
    ).toThrow(/order 4/);
  });
});

describe('integral and derivative', () => {
  test('acceleration becomes velocity and displacement, in the units of the trade', () => {
    const f = 16;
    const w = 2 * Math.PI * f;
    const a = timed(1024, 8, (t) => 9.81 * Math.sin(w * t) + 0.3);
    const input = signalOf('Deck', a, { hz: 1024, unit: 'm/s²' });
    const peak = (v: Float32Array) => Math.max(...v.subarray(3000, 5000));
    const [velocity] = make('integrate', [input], { what: 'integral', corner: 1, unit: 'mm/s' });
    expect(velocity.unit).toBe('mm/s');
    expect(peak(valuesOf(velocity))).toBeCloseTo((9.81 / w) * 1000, 0);
    const [way] = make('integrate', [input], { what: 'integral twice', corner: 1 });
    expect(way.unit).toBe('m');
    expect(peak(valuesOf(way))).toBeCloseTo(9.81 / w / w, 4);
    const [back] = make('integrate', [sampledOf({ ...input, unit: 'm' }, valuesOf(way))], {
      what: 'derivative twice',
    });
    expect(back.unit).toBe('m/s²');
    expect(peak(valuesOf(back))).toBeCloseTo(9.81, 0);
  });

  test('without a high pass an offset becomes a ramp, and it is said to be one; g is not m/s²', () => {
    const [ramp] = make(
      'integrate',
      [signalOf('x', new Float32Array(1001).fill(1), { hz: 100, unit: 'g' })],
      { corner: null },
    );
    expect(valuesOf(ramp)[1000]).toBeCloseTo(98.0665, 3);
    expect(ramp.unit).toBe('m/s');
    expect(
      makingText({ kind: 'integrate', settings: { ...makingKind('integrate').defaults, corner: null } }),
    ).toContain('no high pass');
  });

  test.each([
    ['m/s²', 1, null, 'm/s', 1],
    ['m/s²', 2, 'mm', 'mm', 1000],
    ['g', 1, 'm/s', 'm/s', 9.80665],
    ['mm', -1, 'm/s', 'm/s', 1e-3],
    ['1', 1, null, 's', 1],
    ['µε', 1, null, 'µε·s', 1],
    ['µε', -2, null, 'µε·s⁻²', 1],
  ] as const)('%s, %d times over time, in %s', (unit, steps, wanted, to, factor) => {
    const got = unitAfter(unit, steps, wanted);
    expect(got.unit).toBe(to);
    expect(got.factor).toBeCloseTo(factor, 9);
  });
  test('a unit that does not fit is refused', () => {
    expect(() => unitAfter('m/s²', 1, 'mm')).toThrow(/no unit of what becomes/);
    expect(() => unitAfter('°C', 1, 'K')).toThrow(/no other unit/);
  });
});

test('at another rate a tone stays, one too fast goes; the ends hold; the take is as long as it was', () => {
  const x = tone(1000, 3).map((v, i) => v + tone(1000, 80)[i]);
  const [made] = make('resample', [signalOf('x', x, { hz: 1000, startNs: 250_000_000 })], { rate: 100 });
  expect(made).toMatchObject({
    name: 'x, 100 samples/s',
    rate: { num: 100, den: 1 },
    startNs: 250_000_000,
    length: 400,
  });
  expect(endS(made)).toBeCloseTo(4.25, 1);
  const out = valuesOf(made);
  for (let i = 40; i < 360; i++) expect(out[i]).toBeCloseTo(Math.sin((2 * Math.PI * 3 * i) / 100), 4);
  const [up] = make('resample', [signalOf('x', tone(100, 3), { hz: 100 })], { rate: 333.25 });
  const raised = valuesOf(up);
  for (let i = 150; i < 1100; i++) expect(raised[i]).toBeCloseTo(Math.sin((2 * Math.PI * 3 * i) / 333.25), 3);
});

describe('a formula', () => {
  const torque = signalOf(
    'Torque',
    timed(100, 2, (t) => 2 + t),
    { unit: 'N·m' },
  );
  const speed = signalOf(
    'Speed',
    timed(10, 2, (t) => 10 * t),
    { unit: 'rad/s', hz: 10 },
  );
  const all = [torque, speed];
  test('computes at the fastest rate, slower ones held; its unit follows', () => {
    const [power] = make('formula', {}, { formula: '"Torque" * "Speed"', name: 'Power' }, all);
    expect(power).toMatchObject({ name: 'Power', unit: 'W', length: 200 });
    const out = valuesOf(power);
    expect(out[155]).toBeCloseTo(3.55 * 15, 3);
  });
  test.each([
    ['"Torque" * ', /not understood/],
    ['2 + 2', /at least one channel/],
    ['"Thrust" + 1', /no such channel/],
    ['"Torque" + "Speed"', /do not go together/],
  ])('%s is refused', (text, why) => {
    expect(() => make('formula', {}, { formula: text, name: 'x' }, all)).toThrow(why);
  });
  test('a unit it is not in is refused', () => {
    expect(() => make('formula', {}, { formula: '"Torque"', name: 'x', unit: 'bar' }, all)).toThrow(/bar/);
  });
});

describe('rosettes', () => {
  const gauge = (id: string, value: number, hz = 10) =>
    signalOf(id, new Float32Array(20).fill(value), { unit: 'µε', hz });
  const abc = { a: [gauge('a', 500)], b: [gauge('b', 300)], c: [gauge('c', -100)] };
  test('give principal strains, direction and stresses as channels of their own', () => {
    const made = make('rosette', abc, {
      gives: ['principal strains', 'principal direction', 'principal stresses', 'equivalent stress'],
      name: 'Root',
    });
    expect(made.map((m) => `${m.name} in ${m.unit}: ${valuesOf(m)[7].toFixed(2)}`)).toEqual([
      'Root, ε1 in µε: 516.23',
      'Root, ε2 in µε: -116.23',
      'Root, φ in °: 9.22',
      'Root, σ1 in MPa: 111.08',
      'Root, σ2 in MPa: 8.92',
      'Root, σv in MPa: 106.90',
    ]);
  });
  test('the invariants do not turn with the rosette', () => {
    fc.assert(
      fc.property(fc.double({ min: -180, max: 180, noNaN: true }), (deg) => {
        const at = (a: number) => {
          const t = ((a - deg) * Math.PI) / 90;
          return 200 + 300 * Math.cos(t) + 50 * Math.sin(t);
        };
        const strains = (angles: number[]) => ({ a: [gauge('a', at(angles[0]))], b: [gauge('b', at(angles[1]))], c: [gauge('c', at(angles[2]))] }); // prettier-ignore
        const [one] = make('rosette', strains([0, 45, 90]), { gives: ['principal strains'] });
        const [two] = make('rosette', strains([0, 60, 120]), {
          rosette: '0/60/120',
          gives: ['principal strains'],
        });
        const size = 200 + Math.hypot(300, 50);
        expect(valuesOf(one)[0]).toBeCloseTo(size, 2);
        expect(valuesOf(two)[0]).toBeCloseTo(size, 2);
      }),
    );
  });
  test('gauges twice, or sampled apart, are refused', () => {
    expect(() => make('rosette', { ...abc, b: abc.a })).toThrow(/three different/);
    expect(() => make('rosette', { ...abc, c: [gauge('c', 1, 20)] })).toThrow(/sampled together/);
  });
});

test('every kind says its sentence, what a gap does, and takes its defaults', () => {
  expect(new Set(MAKING_KINDS.map((k) => k.kind)).size).toBe(MAKING_KINDS.length);
  for (const kind of MAKING_KINDS) {
    expect(makingText({ kind: kind.kind, settings: kind.defaults })).toMatch(/\.$/);
    expect(kind.gaps).toMatch(/\.$/);
  }
  expect(() => makingKind('magic')).toThrow(/Choose one of the list/);
  expect(makingText({ kind: 'magic', settings: {} })).toMatch(/does not know/);
});
