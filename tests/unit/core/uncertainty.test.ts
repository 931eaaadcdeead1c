import { describe, expect, test } from 'vitest';
import { fitLine } from '$core/fit/line';
import { Random } from '$core/random';
import { studentFactor } from '$core/statistics/student-t';
import {
  combine,
  combineInputs,
  contribution,
  gradientOf,
  propagate,
  standardUncertainty,
  uncertaintyAt,
} from '$core/uncertainty/budget';
import { referenceCase, within } from '../../reference';

test('Student factors meet the reference table and the normal limit', () => {
  const reference = referenceCase('01_student_t_intervals');
  const { degrees_of_freedom: dofs, confidences } = reference.inputs;
  dofs.forEach((dof: number, r: number) =>
    confidences.forEach((confidence: number, c: number) =>
      within(studentFactor(confidence, dof), reference.expected.t_quantiles[r][c], reference, 't_quantiles'),
    ),
  );
  expect(studentFactor(0.95, Infinity)).toBeCloseTo(1.959963984540054, 7);
  expect(() => studentFactor(1, 5)).toThrow(/between 0 and 1/);
});

describe('worked examples of JCGM 100:2008', () => {
  // H.1.7, table H.1: standard uncertainties in nm with their degrees of freedom.
  const gauge = [
    { u: 25, dof: 18 },
    { u: 9.7, dof: 25.6 },
    { u: 2.9, dof: 50 },
    { u: 16.6, dof: 2 },
  ];
  test('H.1, end gauge: 32 nm combined, 16 degrees of freedom, 93 nm at 99 %', () => {
    const { standard, dof, expanded } = combine(gauge, 0.99);
    expect(standard).toBeCloseTo(31.7, 1);
    expect(Math.floor(dof)).toBe(16);
    expect(Math.round(expanded)).toBe(93);
  });

  test('H.2, resistance and reactance from correlated readings', () => {
    const V = [5.007, 4.994, 5.005, 4.99, 4.999];
    const I = [19.663, 19.639, 19.64, 19.685, 19.678].map((v) => v / 1000);
    const phi = [1.0456, 1.0438, 1.0468, 1.0428, 1.0433];
    const series = [V, I, phi];
    const means = series.map((s) => s.reduce((a, b) => a + b) / s.length);
    const covariance = series.map((a, i) =>
      series.map((b, j) => a.reduce((sum, v, k) => sum + (v - means[i]) * (b[k] - means[j]), 0) / (5 * 4)),
    );
    const correlation = (i: number, j: number) =>
      covariance[i][j] / Math.sqrt(covariance[i][i] * covariance[j][j]);
    expect(correlation(0, 1)).toBeCloseTo(-0.36, 2);
    expect(correlation(0, 2)).toBeCloseTo(0.86, 2);
    expect(correlation(1, 2)).toBeCloseTo(-0.65, 2);
    const steps = means.map((m) => m * 1e-5);
    const outcome = (f: (x: number[]) => number) => ({
      value: f(means),
      u: propagate(gradientOf(f, means, steps), covariance),
    });
    const R = outcome(([v, i, p]) => (v / i) * Math.cos(p));
    const X = outcome(([v, i, p]) => (v / i) * Math.sin(p));
    const Z = outcome(([v, i]) => v / i);
    expect(R.value).toBeCloseTo(127.732, 3);
    // The last digit of the published uncertainties was rounded from intermediate values.
    expect(Math.abs(R.u - 0.071)).toBeLessThan(0.001);
    expect(X.value).toBeCloseTo(219.847, 3);
    expect(Math.abs(X.u - 0.295)).toBeLessThan(0.001);
    expect(Z.value).toBeCloseTo(254.26, 2);
    expect(Math.abs(Z.u - 0.236)).toBeLessThan(0.001);
  });

  test('H.3, thermometer: intercept, slope, their errors, and the correction at 30 °C', () => {
    const t = [21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.01, 26.511];
    const b = [-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.16];
    const fit = fitLine(
      t.map((v) => v - 20),
      b,
    );
    expect(fit.offset).toBeCloseTo(-0.1712, 4);
    expect(fit.standardErrorOffset).toBeCloseTo(0.0029, 4);
    expect(fit.slope).toBeCloseTo(0.00218, 5);
    expect(fit.standardErrorSlope).toBeCloseTo(0.00067, 5);
    expect(fit.residualStd).toBeCloseTo(0.0035, 4);
    expect(fit.slope * 10 + fit.offset).toBeCloseTo(-0.1494, 4);
    // The line as two lines of a budget: its place at the mean, and its slope with the distance from there.
    const mean = t.reduce((a, c) => a + c) / t.length;
    const spread = Math.sqrt(t.reduce((sum, v) => sum + (v - mean) ** 2, 0));
    const line = [
      contribution({ name: 'place', type: 'A', halfWidth: fit.residualStd / Math.sqrt(t.length), dof: 9 }),
      contribution({ name: 'slope', type: 'A', halfWidth: fit.residualStd, about: { mean, spread }, dof: 9 }),
    ];
    expect(uncertaintyAt(line, 30).standard).toBeCloseTo(0.0041, 4);
  });
});

test('half widths become standard uncertainties by their distribution', () => {
  const at = (distribution: Parameters<typeof contribution>[0]['distribution'], more = {}) =>
    standardUncertainty(contribution({ name: 'x', type: 'B', distribution, halfWidth: 6, ...more }), -2);
  expect(at('rectangular')).toBeCloseTo(6 / Math.sqrt(3), 12);
  expect(at('triangular')).toBeCloseTo(6 / Math.sqrt(6), 12);
  expect(at('U-shaped')).toBeCloseTo(6 / Math.SQRT2, 12);
  expect(at('normal', { coverage: 2 })).toBe(3);
  expect(at('normal', { relative: 0.5 })).toBe(7);
});

describe('propagation through a formula, against Monte Carlo', () => {
  const budget = (own: number, shared: number) => [
    contribution({ name: 'own', type: 'B', halfWidth: own }),
    contribution({ name: 'reference', type: 'B', relative: shared, shared: 'REF-1' }),
  ];
  // Power from torque and speed, both calibrated against one reference: its error moves both the same way.
  const at = [4.2, 130];
  const parts = [
    { own: 0.03, ref: 0.004 },
    { own: 0.6, ref: 0.004 },
  ];
  const power = ([torque, speed]: number[]) => (torque * speed * Math.PI) / 30;
  const ratio = ([torque, speed]: number[]) => torque / speed;
  test.each([
    ['product', power],
    ['ratio, where the reference cancels', ratio],
  ])('%s', (_, f) => {
    const gradient = gradientOf(
      f,
      at,
      at.map((v) => v * 1e-5),
    );
    const first = combineInputs(
      at.map((reading, i) => ({
        sensitivity: gradient[i],
        reading,
        budget: budget(parts[i].own, parts[i].ref),
      })),
    );
    const random = new Random(20260411);
    const draws = 40_000;
    let sum = 0;
    let squares = 0;
    for (let k = 0; k < draws; k++) {
      const reference = random.gauss();
      const value = f(at.map((v, i) => v + parts[i].own * random.gauss() + parts[i].ref * v * reference));
      sum += value;
      squares += value * value;
    }
    const spread = Math.sqrt(squares / draws - (sum / draws) ** 2);
    // The spread of a standard deviation from 40 000 draws is 0.35 %; three of those.
    expect(Math.abs(first.standard / spread - 1)).toBeLessThan(0.011);
  });

  test('without the correlation the ratio would be said far too uncertain', () => {
    const gradient = gradientOf(ratio, at, [1e-4, 1e-3]);
    const both = (shared: string | null) =>
      combineInputs(
        at.map((reading, i) => ({
          sensitivity: gradient[i],
          reading,
          budget: budget(0, 0.01).map((p) => ({ ...p, shared: p.shared && (shared ?? `REF-${i}`) })),
        })),
      ).standard;
    expect(both('REF-1')).toBeLessThan(1e-9);
    expect(both(null)).toBeGreaterThan(4e-4);
  });
});
