import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  compileConversion,
  convertEnvelope,
  realRoots,
  type Conversion,
  type Law,
} from '$core/conversion/conversion';
import { LimitWatch } from '$core/signal/limit-watch';
import {
  ALL_UNITS,
  convertUnit,
  isUnit,
  quantityOf,
  readQuantity,
  unitConversion,
  unitsOf,
} from '$core/quantities/quantities';

describe('units', () => {
  test.each([
    [1, 'kN·m', 'N·m', 1000],
    [60, 'rpm', 'rad/s', 2 * Math.PI],
    [100, '°C', '°F', 212],
    [0, 'K', '°C', -273.15],
    [1, 'g', 'm/s²', 9.80665],
    [36, 'km/h', 'm/s', 10],
    [1500, 'µε', 'm/m', 0.0015],
    [100, 'mV/g', 'mV/(m/s²)', 100 / 9.80665],
    [1, 'kN/mm', 'N/m', 1e6],
    [3.6, 'MJ', 'kWh', 1],
    [2.5, 'm^3/h', 'L/min', 2500 / 60],
    [1, 'm·s⁻²', 'm/s²', 1],
    [5, 'μm', 'mm', 0.005],
  ])('%d %s are %d %s', (value, from, to, expected) =>
    expect(convertUnit(value, from, to)).toBeCloseTo(expected, 9),
  );
  test('there and back is the same, between any two units of a quantity', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...ALL_UNITS),
        fc.nat(),
        fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        (from, pick, value) => {
          const others = unitsOf(quantityOf(from));
          const to = others[pick % others.length];
          expect(Math.abs(convertUnit(convertUnit(value, from, to), to, from) - value)).toBeLessThanOrEqual(
            1e-9 * Math.max(1, Math.abs(value)) + 1e-7,
          );
        },
      ),
    );
  });
  test('what does not fit or is no unit is refused; whatever is typed is a unit or not', () => {
    expect(() => unitConversion('bar', 'N')).toThrow(/measures force, bar measures pressure/);
    expect(() => unitConversion('N·m', 'J')).toThrow(/measures energy/);
    expect(['kN·mm', 'mg', 'furlong', 'm//s', '', '°C/min'].map(isUnit)).toEqual([
      true,
      true,
      false,
      false,
      false,
      true,
    ]);
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), (text) => {
        expect(typeof isUnit(text)).toBe('boolean');
      }),
    );
  });
  test('numbers with their units are read', () => {
    expect(readQuantity('2.05 mV/V')).toEqual({ value: 2.05, unit: 'mV/V' });
    expect(readQuantity('−3e-2')).toEqual({ value: -0.03, unit: null });
    expect(readQuantity('350 ohms')).toEqual({ value: 350, unit: 'Ω' });
    expect([readQuantity('350 zloty'), readQuantity('x'), readQuantity('')]).toEqual([null, null, null]);
  });
});

const direct = (law: Law): Conversion => ({
  law,
  correction: { slope: 1, offset: 0 },
  unit: { factor: 1, offset: 0 },
});
describe('scales', () => {
  test('a table lies on straight lines between its points and goes on beyond them', () => {
    const out = new Float32Array(5);
    compileConversion(direct({ kind: 'table', xs: [0, 5, 10], ys: [0, 1, 4] }))(
      [-5, 2.5, 5, 7.5, 15],
      out,
      5,
    );
    expect([...out]).toEqual([-1, 0.5, 1, 2.5, 7]);
  });
  test('roots of a polynomial where it changes its sign', () => {
    expect(realRoots([-6, 11, -6, 1]).map((r) => Number(r.toFixed(9)))).toEqual([1, 2, 3]);
    expect(realRoots([1, 0, 1])).toEqual([]);
    expect(realRoots([0, 2])[0]).toBeCloseTo(0, 12);
  });
  test('extremes of a bucket include the top of a curve within it', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 2, maxLength: 5 }),
        fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 2, maxLength: 50 }),
        (coefficients, samples) => {
          const conversion = direct({ kind: 'polynomial', coefficients });
          const raw = Float32Array.from(samples);
          const values = new Float32Array(raw.length);
          compileConversion(conversion)(raw, values, raw.length);
          const { min, max } = convertEnvelope(
            conversion,
            Float32Array.of(Math.min(...raw)),
            Float32Array.of(Math.max(...raw)),
          );
          const slack = 1e-4;
          expect(Math.min(...values)).toBeGreaterThanOrEqual(min[0] - slack);
          expect(Math.max(...values)).toBeLessThanOrEqual(max[0] + slack);
        },
      ),
    );
    const parabola = convertEnvelope(
      direct({ kind: 'polynomial', coefficients: [0, 0, 1] }),
      Float32Array.of(-1),
      Float32Array.of(2),
    );
    expect([parabola.min[0], parabola.max[0]].map((v) => Number(v.toFixed(6)))).toEqual([0, 4]);
  });
});

describe('limits', () => {
  const run = (watch: LimitWatch, ...blocks: number[][]) =>
    blocks.map((b) => watch.step(b, b.length, Math.min(...b), Math.max(...b)));
  test('both sides count, and end only when back by the hysteresis', () => {
    const watch = new LimitWatch({ below: -5, above: 10 }, 0, 2);
    expect(run(watch, [0, 9], [11], [9], [7], [0], [-6], [-4], [0])).toEqual([
      false,
      true,
      true,
      true,
      false,
      true,
      true,
      true,
    ]);
    expect(run(watch, [0])).toEqual([false]);
  });
  test('a hold has to pass without a break, over blocks; a missing value does not break it', () => {
    const watch = new LimitWatch({ below: null, above: 1 }, 3, 0);
    expect(run(watch, [2, 2, 0], [2, 2], [NaN, 2], [2])).toEqual([false, false, false, true]);
  });
  test('a spike within a block is seen', () => {
    expect(run(new LimitWatch({ below: null, above: 1 }, 0, 0), [0, 2, 0], [0])).toEqual([true, false]);
  });
});
