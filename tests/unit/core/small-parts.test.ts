import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { lookUp } from '$core/conversion/table';
import { turningPoints } from '$core/conversion/conversion';
import { roundTicks } from '$core/figures/ticks';
import { clockText, fixed, rangeDecimals, readingText } from '$core/readings';
import { incompleteBeta, logGamma, studentFactor } from '$core/statistics/student-t';
import { BitReader, BitWriter } from '$core/teds/bits';

const finite = (most: number) => fc.double({ min: -most, max: most, noNaN: true });

describe('special functions', () => {
  test('the gamma function: its recurrence, its factorials, its reflection, √π at one half', () => {
    expect(logGamma(0.5)).toBeCloseTo(Math.log(Math.sqrt(Math.PI)), 14);
    let factorial = 1;
    for (let n = 1; n <= 20; n++) {
      factorial *= n;
      expect(logGamma(n + 1) / Math.log(factorial) || 1).toBeCloseTo(1, 12);
    }
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 500, noNaN: true }), (x) => {
        expect(Math.abs(logGamma(x + 1) - logGamma(x) - Math.log(x))).toBeLessThan(
          1e-11 * Math.max(1, logGamma(x + 1)),
        );
      }),
    );
  });

  test('the incomplete beta function: a share, rising, its own mirror, and x itself for a = b = 1', () => {
    const shape = fc.double({ min: 0.2, max: 60, noNaN: true });
    const share = fc.double({ min: 1e-6, max: 1 - 1e-6, noNaN: true });
    fc.assert(
      fc.property(share, share, shape, shape, (x, y, a, b) => {
        const at = incompleteBeta(x, a, b);
        expect(at).toBeGreaterThanOrEqual(-1e-12);
        expect(at).toBeLessThanOrEqual(1 + 1e-12);
        expect(at + incompleteBeta(1 - x, b, a)).toBeCloseTo(1, 9);
        if (y > x) expect(incompleteBeta(y, a, b)).toBeGreaterThanOrEqual(at - 1e-9);
        expect(incompleteBeta(x, 1, 1)).toBeCloseTo(x, 10);
      }),
    );
  });

  test('Student’s factor: the values of the guide’s table G.2, wider for less freedom and more confidence', () => {
    for (const [dof, confidence, t] of [
      [1, 0.9545, 13.97],
      [5, 0.9545, 2.65],
      [10, 0.95, 2.23],
      [50, 0.99, 2.68],
      [Infinity, 0.9545, 2.0],
      [Infinity, 0.9973, 3.0],
    ] as const)
      expect(studentFactor(confidence, dof)).toBeCloseTo(t, 2);
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 400, noNaN: true }),
        fc.double({ min: 0.05, max: 0.99, noNaN: true }),
        (dof, p) => {
          expect(studentFactor(p, dof)).toBeGreaterThan(studentFactor(p, dof * 1.5));
          expect(studentFactor(p + 0.005, dof)).toBeGreaterThan(studentFactor(p, dof));
        },
      ),
      { numRuns: 40 },
    );
    for (const [p, dof] of [
      [0, 5],
      [1, 5],
      [0.95, 0],
      [0.95, NaN],
    ])
      expect(() => studentFactor(p, dof)).toThrow(/Give a/);
  });
});

describe('tables', () => {
  const table = fc
    .array(fc.tuple(finite(1e4), finite(1e4)), { minLength: 2, maxLength: 20 })
    .map((rows) => [...new Map(rows.map(([x, y]) => [Math.round(x), y]))].sort(([a], [b]) => a - b))
    .filter((rows) => rows.length >= 2);

  test('go through their points, lie between neighbours, and hold or go on at the ends', () => {
    fc.assert(
      fc.property(table, finite(2e4), (rows, x) => {
        const [xs, ys] = [rows.map((r) => r[0]), rows.map((r) => r[1])];
        rows.forEach(([at, y]) => expect(lookUp(xs, ys, at, true)).toBeCloseTo(y, 6));
        const held = lookUp(xs, ys, x, true);
        expect(held).toBeGreaterThanOrEqual(Math.min(...ys) - 1e-6);
        expect(held).toBeLessThanOrEqual(Math.max(...ys) + 1e-6);
        const after = xs.findIndex((at) => at > x);
        if (after > 0) {
          const [a, b] = [ys[after - 1], ys[after]];
          expect(held).toBeGreaterThanOrEqual(Math.min(a, b) - 1e-6);
          expect(held).toBeLessThanOrEqual(Math.max(a, b) + 1e-6);
        }
        if (x > xs[xs.length - 1]) expect(held).toBe(ys[ys.length - 1]);
      }),
    );
    expect(lookUp([0, 1, 2], [0, 10, 30], 3, false)).toBe(50);
    expect(lookUp([0, 1, 2], [0, 10, 30], -1, false)).toBe(-10);
    expect(lookUp([0, 1], [0, 1], NaN, true)).toBeNaN();
  });

  test('between two of its turning points a law only rises or only falls', () => {
    const law = fc
      .array(finite(10), { minLength: 2, maxLength: 5 })
      .map((coefficients) => ({ kind: 'polynomial' as const, coefficients }));
    const value = (c: number[], x: number) => c.reduceRight((sum, k) => sum * x + k, 0);
    fc.assert(
      fc.property(law, ({ kind, coefficients }) => {
        const turns = turningPoints({ kind, coefficients })
          .filter((t) => Math.abs(t) < 3)
          .sort((a, b) => a - b);
        const ends = [-3, ...turns, 3];
        for (let k = 0; k + 1 < ends.length; k++) {
          const width = ends[k + 1] - ends[k];
          if (width < 1e-3) continue;
          const at = Array.from({ length: 9 }, (_, i) =>
            value(coefficients, ends[k] + (width * (i + 1)) / 10),
          );
          const steps = at.slice(1).map((v, i) => v - at[i]);
          const scale = 1e-9 * Math.max(1, ...at.map(Math.abs));
          expect(steps.every((s) => s >= -scale) || steps.every((s) => s <= scale)).toBe(true);
        }
      }),
    );
    // A cubic part that turns the curve only far beyond any reading hides no turn within.
    const flat = [0, 0, 3.96825396825397e-10, 4.171795699858008e-40, 0];
    expect(turningPoints({ kind: 'polynomial', coefficients: flat }).some((t) => Math.abs(t) < 1e-9)).toBe(
      true,
    );
  });
});

describe('bits of a sensor’s chip', () => {
  test('come back as they were put, across the bounds of bytes, and the end of them is told', () => {
    const field = fc
      .integer({ min: 1, max: 32 })
      .chain((count) => fc.tuple(fc.nat(2 ** Math.min(30, count) - 1), fc.constant(count)));
    fc.assert(
      fc.property(fc.array(field, { minLength: 1, maxLength: 30 }), (fields) => {
        const writer = new BitWriter();
        for (const [value, count] of fields) writer.put(value, count);
        const reader = new BitReader(writer.bytes());
        for (const [value, count] of fields) expect(reader.take(count, 'field')).toBe(value);
        expect(reader.left).toBeLessThan(8);
        expect(() => reader.take(reader.left + 1, 'gain')).toThrow(/ends within “gain”, at bit/);
      }),
    );
    // Lowest bit of each byte first (IEEE 1451.4, 5.1): 1 in one bit, then 2 in two.
    const writer = new BitWriter();
    writer.put(1, 1);
    writer.put(2, 2);
    expect([...writer.bytes()]).toEqual([0b101]);
  });
});

describe('numbers as they are shown', () => {
  test('a reading is rounded at the second digit of its uncertainty, by no more than half of that digit', () => {
    fc.assert(
      fc.property(finite(1e5), fc.double({ min: 1e-4, max: 5e3, noNaN: true }), (value, uncertainty) => {
        const text = readingText(value, { uncertainty });
        const shown = Number(text.replace('−', '-'));
        const place = 10 ** (Math.floor(Math.log10(uncertainty)) - 1);
        expect(Math.abs(shown - value)).toBeLessThanOrEqual(place * 0.5000001 + 1e-9);
        expect(text).not.toMatch(/^−0(\.0*)?$/);
      }),
    );
  });

  test('a range is shown in about two thousand steps; ticks are round, within it and evenly apart', () => {
    fc.assert(
      fc.property(finite(1e6), fc.double({ min: 1e-3, max: 1e6, noNaN: true }), (min, span) => {
        const max = min + span;
        const decimals = rangeDecimals(min, max);
        expect(10 ** -decimals).toBeLessThanOrEqual(Math.max(1, (span / 2000) * 1.0001));
        const { ticks, decimals: labels } = roundTicks(min, max);
        expect(ticks.length).toBeGreaterThanOrEqual(2);
        expect(ticks.length).toBeLessThanOrEqual(7);
        const step = ticks[1] - ticks[0];
        for (const [k, tick] of ticks.entries()) {
          expect(tick).toBeGreaterThanOrEqual(min - span * 1e-6);
          expect(tick).toBeLessThanOrEqual(max + span * 1e-6);
          if (k) expect((tick - ticks[k - 1]) / step).toBeCloseTo(1, 3);
          // The label tells the tick.
          expect(Number(fixed(tick, labels).replace('−', '-'))).toBeCloseTo(tick, 6);
        }
        const lead = Number((step / 10 ** Math.floor(Math.log10(step * 1.0000001))).toPrecision(3));
        expect([1, 2, 5]).toContain(lead);
      }),
    );
  });

  test.each([
    [0, 1, '00:00.0'],
    [59.96, 1, '01:00.0'],
    [252.6, 1, '04:12.6'],
    [3599.99, 1, '1:00:00.0'],
    [-2, 0, '−00:02'],
    [86_400, 0, '24:00:00'],
  ])('%d s at %d decimals reads %s', (seconds, decimals, text) =>
    expect(clockText(seconds, decimals)).toBe(text),
  );
});
