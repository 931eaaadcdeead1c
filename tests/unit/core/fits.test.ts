import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Random } from '$core/random';
import { fitForm } from '$core/fit/forms';
import { fitLine } from '$core/fit/line';
import { fitPolynomial, largestLeverage } from '$core/fit/polynomial';
import { studentFactor } from '$core/statistics/student-t';
import { combine, uncertaintyAt } from '$core/uncertainty/budget';
import { lineContributions, pointContributions } from '$contract/calibration';
import { ContributionSchema } from '$contract/calibration-record';
import { channel } from '../rig';
import { fitPoints } from '$contract/calibration';

/** Half width of the prediction interval of linear regression at a reading: t·s·sqrt(1 + 1/n + (x₀ − x̄)²/Sxx). */
function prediction(x: number[], y: number[], at: number, confidence: number): number {
  const n = x.length;
  const mean = x.reduce((a, b) => a + b) / n;
  const sxx = x.reduce((s, v) => s + (v - mean) ** 2, 0);
  const { slope, offset } = fitLine(x, y);
  const s = Math.sqrt(x.reduce((sum, v, i) => sum + (y[i] - slope * v - offset) ** 2, 0) / (n - 2));
  return studentFactor(confidence, n - 2) * s * Math.sqrt(1 + 1 / n + (at - mean) ** 2 / sxx);
}

describe('the uncertainty that points leave is the prediction interval of linear regression', () => {
  const random = new Random(4);
  for (const n of [3, 4, 5, 12])
    for (const confidence of [0.95, 0.99])
      test(`${n} points, ${100 * confidence} %, within and far from the points`, () => {
        const x = Array.from({ length: n }, (_, i) => 100 + i);
        const y = x.map((v) => 3 * v - 7 + 0.2 * random.gauss());
        const fit = fitForm('straight line', { x, y });
        const parts = lineContributions(fit);
        for (const at of [100, 100 + (n - 1) / 2, 100 + n, 0, -500]) {
          const got = uncertaintyAt(parts, fit.slope * at + fit.offset, confidence);
          expect(got.dof).toBeCloseTo(n - 2, 9);
          expect(got.expanded / prediction(x, y, at, confidence), `at ${at}`).toBeCloseTo(1, 9);
        }
      });

  test('of 2000 calibrations by three points, 95 of 100 intervals hold the next reading', () => {
    const noise = new Random(77);
    let inside = 0;
    for (let k = 0; k < 2000; k++) {
      const x = [0, 50, 100];
      const y = x.map((v) => 2 * v + noise.gauss());
      const fit = fitForm('straight line', { x, y });
      const at = 100 * noise.uniform();
      const reading = fit.slope * at + fit.offset;
      const { expanded } = uncertaintyAt(lineContributions(fit), reading);
      if (Math.abs(reading - (2 * at + noise.gauss())) <= expanded) inside++;
    }
    // 95 % of 2000 with a binomial spread of 10: three of them to each side.
    expect(inside / 2000).toBeGreaterThan(0.935);
    expect(inside / 2000).toBeLessThan(0.965);
  });

  test('a line through zero is sure at zero but for its scatter; a curve is no surer than its surest points say', () => {
    const x = [1, 2, 3, 4, 5, 6];
    const y = [2.1, 3.9, 6.2, 7.8, 10.1, 11.9];
    const zero = fitForm('straight line through zero', { x, y });
    expect(uncertaintyAt(lineContributions(zero), 0).standard).toBeCloseTo(zero.residualStd, 12);
    const curve = fitForm('parabola', { x, y });
    expect(curve.placed).toBeCloseTo(largestLeverage(x, 2), 12);
    expect(uncertaintyAt(lineContributions(curve), 5).standard).toBeCloseTo(
      curve.residualStd * Math.sqrt(1 + curve.placed),
      12,
    );
  });

  test('parts that are estimates of their own still add up by Welch and Satterthwaite', () => {
    // JCGM 100, G.4.1: two estimates of one size with 5 and 20 degrees of freedom have 8 together.
    expect(
      combine([
        { u: 1, dof: 5 },
        { u: 1, dof: 20 },
      ]).dof,
    ).toBeCloseTo(4 / (1 / 5 + 1 / 20), 12);
    expect(
      combine([
        { u: 1, dof: 4, estimate: 's' },
        { u: 2, dof: 4, estimate: 's' },
      ]).dof,
    ).toBeCloseTo(4, 12);
  });

  test('records of earlier versions, which did not say so, are read as what they were', () => {
    const old = {
      type: 'A', distribution: 'normal', halfWidth: 1, relative: 0, coverage: 1, dof: 1, about: null, shared: null,
    }; // prettier-ignore
    const read = ['Distance from the line', 'Place of the line', 'Settling and noise'].map((name) =>
      ContributionSchema.parse({ name, ...old }),
    );
    expect(read[0].estimate).not.toBeNull();
    expect(read[1].estimate).toBe(read[0].estimate);
    expect(read[2].estimate).toBeNull();
  });

  test('a calibration by three points claims no more than they prove', () => {
    const gauge = channel('Gauge', 'voltage', 'A4/1', { unit: 'mm', slope: 10, range: { min: 0, max: 100 } });
    const points = [
      { target: 0, raw: 0.01, noise: 0, samples: 40 },
      { target: 50, raw: 5.02, noise: 0, samples: 40 },
      { target: 100, raw: 9.99, noise: 0, samples: 40 },
    ];
    const fit = fitPoints(gauge, points);
    const { expanded } = uncertaintyAt(pointContributions(fit, points), 100);
    const truth = prediction(
      points.map((p) => p.raw),
      points.map((p) => p.target),
      (100 - fit.offset) / fit.slope,
      0.95,
    );
    expect(expanded / truth).toBeCloseTo(1, 6);
  });
});

describe('what cannot be fitted is said', () => {
  test.each([0.1, 1e9, 3, -7e-5])('a stuck sensor at %d is no line, whatever rounding makes of it', (x) => {
    const stuck = Array(7).fill(x);
    const y = [0, 1, 2, 3, 4, 5, 6];
    expect(() => fitLine(stuck, y)).toThrow(/two different values/);
    expect(() => fitPolynomial(stuck, y, 2)).toThrow(/1 different readings/);
    const nearly = stuck.map((v, i) => v * (1 + (i % 2) * 1e-15));
    expect(() => fitLine(nearly, y)).toThrow(/two different values/);
  });
  test('a missing reading is named, and never makes a perfect fit', () => {
    expect(() => fitLine([1, 2, 3], [1, NaN, 3])).toThrow(/2, NaN at point 2/);
    expect(() => fitPolynomial([1, 2, NaN, 4], [1, 2, 3, 4], 2)).toThrow(/at point 3/);
    expect(() => fitForm('straight line', { x: [1, 2, Infinity], y: [1, 2, 3] })).toThrow(/at point 3/);
  });
  test('two hundred thousand points are fitted like ten', () => {
    const x = Float64Array.from({ length: 200_000 }, (_, i) => i / 1000);
    const y = x.map((v) => 4 + 3 * v + 0.5 * v * v);
    const [c0, c1, c2] = fitPolynomial(x, y, 2);
    expect([c0, c1, c2].map((c) => Number(c.toFixed(6)))).toEqual([4, 3, 0.5]);
    expect(fitForm('parabola', { x, y }).largestResidual).toBeLessThan(1e-6);
  });
  test('leverages of a polynomial add up to its number of coefficients, so the largest lies between', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 40 }), fc.integer({ min: 1, max: 3 }), (n, order) => {
        const most = largestLeverage(
          Array.from({ length: n }, (_, i) => i * 1.7 + 3),
          order,
        );
        expect(most).toBeGreaterThanOrEqual((order + 1) / n - 1e-9);
        expect(most).toBeLessThanOrEqual(1 + 1e-9);
      }),
    );
  });
});
