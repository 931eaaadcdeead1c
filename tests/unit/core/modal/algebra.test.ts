import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { eigenpairs, hermitian, symmetric } from '$core/matrix/eigen';
import { singular } from '$core/matrix/singular';
import { solveComplex, solveSymmetric } from '$core/matrix/solve';
import { foundAgain, type FitResult } from '$core/modal/analysis';
import { halfSpectra, sOf } from '$core/modal/half-spectra';
import { decomposition, multivariateIndicator, referenceRank, singularValues } from '$core/modal/indicators';
import { leastSquaresComplexFrequency } from '$core/modal/lscf';
import { physical } from '$core/modal/poles';
import { mac } from '$core/modal/shape';
import { clustersOf, judged, poleDensity, type JudgedPole, type Rest } from '$core/modal/stability';
import { stochasticSubspace } from '$core/modal/subspace';
import { Random } from '$core/random';
import { askew } from '$core/wireframe/projection';

const matrix = (seed: number, rows: number, columns = rows) => {
  const r = new Random(seed);
  return Array.from({ length: rows }, () => Float64Array.from({ length: columns }, () => r.gauss()));
};
const times = (a: ArrayLike<number>[], x: ArrayLike<number>) =>
  a.map((row) => Array.from(x).reduce((s, v, k) => s + row[k] * v, 0));
const seeds = fc.integer({ min: 1, max: 1e6 });

describe('linear algebra', () => {
  test('a·v = λ·v for every pair, complex ones with their conjugates', () =>
    fc.assert(
      fc.property(seeds, fc.integer({ min: 1, max: 12 }), (seed, n) => {
        const a = matrix(seed, n);
        const { re, im, vectorRe, vectorIm } = eigenpairs(a);
        const size = Math.max(...a.flatMap((row) => [...row].map(Math.abs)));
        for (let k = 0; k < n; k++) {
          const [x, y] = [times(a, vectorRe[k]), times(a, vectorIm[k])];
          for (let i = 0; i < n; i++) {
            expect(Math.abs(x[i] - (re[k] * vectorRe[k][i] - im[k] * vectorIm[k][i]))).toBeLessThan(
              1e-7 * size * n,
            );
            expect(Math.abs(y[i] - (re[k] * vectorIm[k][i] + im[k] * vectorRe[k][i]))).toBeLessThan(
              1e-7 * size * n,
            );
          }
          if (im[k] !== 0)
            expect([...im].filter((v) => Math.abs(v + im[k]) < 1e-9).length).toBeGreaterThan(0);
        }
        const trace = a.reduce((s, row, i) => s + row[i], 0);
        expect(re.reduce((s, v) => s + v, 0)).toBeCloseTo(trace, 7);
      }),
      { numRuns: 60 },
    ));

  test('singular values put the matrix together again, wide or tall', () => {
    for (const [rows, columns] of [
      [7, 3],
      [3, 7],
      [5, 5],
    ]) {
      const a = matrix(rows * 31 + columns, rows, columns);
      const { u, s, v } = singular(a);
      expect([...s]).toEqual([...s].sort((p, q) => q - p));
      a.forEach((row, i) =>
        row.forEach((value, j) =>
          expect(s.reduce((sum, x, k) => sum + u[i][k] * x * v[j][k], 0)).toBeCloseTo(value, 9),
        ),
      );
    }
  });

  describe('singular values', () => {
    /** Largest difference of vectorsᵀ·vectors from the identity, over those whose value is not 0. */
    const askewed = (vectors: Float64Array[], s: Float64Array) => {
      let worst = 0;
      for (let p = 0; p < s.length; p++)
        for (let q = 0; q < s.length; q++) {
          if (s[p] === 0 || s[q] === 0) continue;
          const sum = vectors.reduce((t, row) => t + row[p] * row[q], 0);
          worst = Math.max(worst, Math.abs(sum - (p === q ? 1 : 0)));
        }
      return worst;
    };
    const together = (a: ArrayLike<number>[], { u, s, v }: ReturnType<typeof singular>) =>
      Math.max(...a.map((row, i) => Math.max(...Array.from(row, (value, j) => Math.abs(s.reduce((sum, x, k) => sum + u[i][k] * x * v[j][k], 0) - value))))); // prettier-ignore

    test('any matrix: put together again, vectors of length 1 at right angles, values falling, as those of aᵀ·a', () =>
      fc.assert(
        fc.property(seeds, fc.integer({ min: 1, max: 14 }), fc.integer({ min: 1, max: 14 }), (seed, rows, columns) => {
          const a = matrix(seed, rows, columns);
          const got = singular(a);
          const k = Math.min(rows, columns);
          expect([got.u.length, got.v.length, got.s.length]).toEqual([rows, columns, k]);
          const some = singular(a, 2);
          expect([...some.s]).toEqual([...got.s]);
          some.u.forEach((row, i) => expect([...row]).toEqual([...got.u[i].subarray(0, 2)]));
          some.v.forEach((row, i) => expect([...row]).toEqual([...got.v[i].subarray(0, 2)]));
          expect(together(a, got)).toBeLessThan(1e-12 * (1 + got.s[0]));
          expect(Math.max(askewed(got.u, got.s), askewed(got.v, got.s))).toBeLessThan(1e-12);
          for (let i = 1; i < k; i++) expect(got.s[i]).toBeLessThanOrEqual(got.s[i - 1]);
          const square = Array.from({ length: columns }, (_, i) => Array.from({ length: columns }, (_, j) => a.reduce((t, row) => t + row[i] * row[j], 0))); // prettier-ignore
          symmetric(square).values.slice(0, k).forEach((value, i) => expect(Math.abs(Math.sqrt(Math.max(0, value)) - got.s[i])).toBeLessThan(1e-6 * got.s[0])); // prettier-ignore
        }),
        { numRuns: 80 },
      )); // prettier-ignore

    test('values far apart are as exact as near ones, whatever the columns’ order', () => {
      // Of a diagonal on two turned bases the values are known: over 24 decades of columns alone they are kept relative to themselves.
      const sizes = [1e-12, 1, 1e-6, 1e12, 1e3, 1e-9];
      const { u } = singular(matrix(9, 40, 6));
      const a = u.map((row) => row.map((x, k) => x * sizes[k]));
      const { s } = singular(a);
      [...sizes].sort((x, y) => y - x).forEach((want, k) => expect(Math.abs(s[k] / want - 1)).toBeLessThan(1e-11)); // prettier-ignore
    });

    test('what is of a lower rank has zeros behind it, what is nothing has nothing else, doubled values are no trouble', () => {
      const thin = matrix(5, 30, 3);
      const low = thin.map((row) => Float64Array.from({ length: 8 }, (_, k) => row[k % 3] * (1 + (k > 2 ? k : 0)))); // prettier-ignore
      const { s, u, v } = singular(low);
      expect(s.filter((x) => x > 1e-12 * s[0])).toHaveLength(3);
      expect(together(low, { s, u, v })).toBeLessThan(1e-11 * s[0]);
      expect([...singular([new Float64Array(3), new Float64Array(3)]).s]).toEqual([0, 0]);
      const ones = Array.from({ length: 5 }, (_, i) => Float64Array.from({ length: 5 }, (_, k) => (i === k ? 2 : 0))); // prettier-ignore
      expect([...singular(ones).s]).toEqual([2, 2, 2, 2, 2]);
      const hilbert = Array.from({ length: 9 }, (_, i) => Float64Array.from({ length: 9 }, (_, k) => 1 / (i + k + 1))); // prettier-ignore
      const got = singular(hilbert);
      // Largest and smallest singular value of the Hilbert matrix of order 9 (Todd, NBS J. Res. 65B, 1961: condition 4.93e11).
      expect(got.s[0]).toBeCloseTo(1.725883, 5);
      expect(got.s[0] / got.s[8] / 4.93e11).toBeCloseTo(1, 2);
      expect(askewed(got.u, got.s)).toBeLessThan(1e-12);
    });
  });

  test('a Hermitian matrix: real values in falling order, each with one vector of length 1 across the others, doubled values, too', () => {
    for (const doubled of [false, true]) {
      // Values 4, 2 (twice where doubled), 1 on a turned basis.
      const wanted = doubled ? [4, 2, 2] : [4, 2, 1];
      const [x, y] = [matrix(3, 3), matrix(4, 3)];
      const basis: { re: number[]; im: number[] }[] = [];
      for (let k = 0; k < 3; k++) {
        const v = { re: [...x[k]], im: [...y[k]] };
        for (const b of basis) {
          const [cr, ci] = [0, 1, 2].reduce(
            ([r, i], n) => [
              r + b.re[n] * v.re[n] + b.im[n] * v.im[n],
              i + b.re[n] * v.im[n] - b.im[n] * v.re[n],
            ],
            [0, 0],
          );
          for (let n = 0; n < 3; n++) {
            v.re[n] -= cr * b.re[n] - ci * b.im[n];
            v.im[n] -= cr * b.im[n] + ci * b.re[n];
          }
        }
        const size = Math.hypot(...v.re, ...v.im);
        basis.push({ re: v.re.map((t) => t / size), im: v.im.map((t) => t / size) });
      }
      const make = (f: (b: (typeof basis)[number], i: number, j: number) => number) =>
        [0, 1, 2].map((i) =>
          Float64Array.from([0, 1, 2], (j) => basis.reduce((s, b, k) => s + wanted[k] * f(b, i, j), 0)),
        );
      const found = hermitian(
        make((b, i, j) => b.re[i] * b.re[j] + b.im[i] * b.im[j]),
        make((b, i, j) => b.im[i] * b.re[j] - b.re[i] * b.im[j]),
      );
      [...found.values].forEach((v, k) => expect(v).toBeCloseTo(wanted[k], 9));
      for (let a = 0; a < 3; a++)
        for (let b = 0; b < 3; b++)
          expect(
            mac(
              { re: found.vectorRe[a], im: found.vectorIm[a] },
              { re: found.vectorRe[b], im: found.vectorIm[b] },
            ),
          ).toBeCloseTo(a === b ? 1 : 0, 9);
      expect(
        mac(
          { re: found.vectorRe[0], im: found.vectorIm[0] },
          { re: Float64Array.from(basis[0].re), im: Float64Array.from(basis[0].im) },
        ),
      ).toBeCloseTo(1, 9);
    }
  });

  test('symmetric equations of any scale; a column made of others is left out and counted', () =>
    fc.assert(
      fc.property(seeds, fc.integer({ min: 1, max: 8 }), (seed, n) => {
        const g = matrix(seed, n + 4, n).map((row) => row.map((v, k) => v * 10 ** (3 * k - 8)));
        const a = Array.from({ length: n }, (_, i) =>
          Float64Array.from({ length: n }, (_, j) => g.reduce((s, row) => s + row[i] * row[j], 0)),
        );
        const truth = matrix(seed + 1, n, 2).map((row, k) => row.map((v) => v * 10 ** (8 - 3 * k)));
        const b = a.map((row) =>
          Float64Array.from([0, 1], (c) => row.reduce((s, v, k) => s + v * truth[k][c], 0)),
        );
        const { x, rank } = solveSymmetric(a, b);
        expect(rank).toBe(n);
        x.forEach((row, k) => row.forEach((v, c) => expect(v / truth[k][c]).toBeCloseTo(1, 5)));
      }),
      { numRuns: 40 },
    ));
  test('of equations that say one thing twice there is a solution all the same', () => {
    const a = [Float64Array.of(2, 2), Float64Array.of(2, 2)];
    const { x, rank } = solveSymmetric(a, [Float64Array.of(6), Float64Array.of(6)]);
    expect(rank).toBe(1);
    expect(x[0][0] + x[1][0]).toBeCloseTo(3, 9);
    expect(solveSymmetric([Float64Array.of(0)], [Float64Array.of(1)])).toMatchObject({ rank: 0 });
  });
  test('complex equations, and one that has none', () => {
    const [re, im] = [matrix(5, 4), matrix(6, 4)];
    const [xr, xi] = [
      [1, -2, 0.5, 3],
      [0, 1, -1, 2],
    ];
    const bRe = re.map((row, i) =>
      Float64Array.of(row.reduce((s, v, k) => s + v * xr[k] - im[i][k] * xi[k], 0)),
    );
    const bIm = re.map((row, i) =>
      Float64Array.of(row.reduce((s, v, k) => s + v * xi[k] + im[i][k] * xr[k], 0)),
    );
    expect(solveComplex(re, im, bRe, bIm)).toBe(true);
    xr.forEach((v, k) => expect(bRe[k][0]).toBeCloseTo(v, 9));
    xi.forEach((v, k) => expect(bIm[k][0]).toBeCloseTo(v, 9));
    const zero = [new Float64Array(1)];
    expect(solveComplex([new Float64Array(1)], zero, [Float64Array.of(1)], [new Float64Array(1)])).toBe(
      false,
    );
  });
});

/** Correlations of modes with all their responses as references, so that the spectral matrix is whole. */
function known(modes: { hz: number; damping: number; shape: number[] }[], lags = 512, dtS = 1 / 128) {
  const l = modes[0].shape.length;
  const values = new Float64Array(l * l * lags);
  for (const { hz, damping, shape } of modes) {
    const [sr, si] = sOf({ hz, damping });
    for (let i = 0; i < l; i++)
      for (let r = 0; r < l; r++)
        for (let k = 0; k < lags; k++)
          values[(i * l + r) * lags + k] +=
            shape[i] * shape[r] * Math.exp(sr * k * dtS) * Math.cos(si * k * dtS);
  }
  return { responses: l, references: l, lags, dtS, values };
}
const two = [
  { hz: 20, damping: 0.02, shape: [1, 0.6, -0.2] },
  { hz: 20.4, damping: 0.02, shape: [-0.3, 1, 0.8] },
];
const ALL = [0, 1, 2];

describe('indicators', () => {
  const lines = halfSpectra(known(two));
  const at = (hz: number) => Math.round(hz / lines.hz[1]);
  test('of two close modes the second singular value rises, too; far from them nothing does', () => {
    const [first, second, third] = singularValues(lines, ALL);
    expect(second[at(20.2)] / first[at(20.2)]).toBeGreaterThan(0.05);
    expect(third[at(20.2)] / first[at(20.2)]).toBeLessThan(1e-6);
    // A pole’s skirt falls with the distance in lines of its own width: some 75 to 1 here, less what both modes share.
    expect(first[at(20.2)] / first[at(50)]).toBeGreaterThan(20);
    for (let k = 0; k < first.length; k++) expect(first[k] >= second[k] && second[k] >= third[k]).toBe(true);
  });
  test('the multivariate indicator dips at a mode, and is a share everywhere', () => {
    const [one] = multivariateIndicator(halfSpectra(known([two[0]])));
    expect(one[at(20)]).toBeLessThan(0.2);
    expect(one[at(28)]).toBeGreaterThan(one[at(20)]);
    for (const row of multivariateIndicator(lines)) for (const v of row) expect(v >= 0 && v <= 1).toBe(true);
  });
  test('a quick look finds the mode to a line, with its shape', () => {
    const [mode] = decomposition(halfSpectra(known([two[0]])), ALL);
    expect(Math.abs(mode.hz - 20)).toBeLessThanOrEqual(lines.hz[1]);
    expect(mac(mode.shape, { re: Float64Array.from(two[0].shape), im: new Float64Array(3) })).toBeGreaterThan(
      0.999,
    );
  });
  test('how many independent motions the references see', () => {
    expect(referenceRank(halfSpectra(known([two[0]])), ALL)).toBe(1);
    expect(referenceRank(lines, ALL)).toBe(2);
  });
});

describe('two fits, one truth', () => {
  const set = known(two);
  const band = { fromHz: 5, toHz: 60 };
  const options = { band, order: 24, decay: 0 };
  const near = (poles: { hz: number; damping: number }[], m: (typeof two)[number]) =>
    poles.reduce((a, b) => (Math.abs(b.hz - m.hz) < Math.abs(a.hz - m.hz) ? b : a));
  test('two modes 2 % apart with as much damping are told apart by both, to the digits of the arithmetic', () => {
    for (const orders of [
      leastSquaresComplexFrequency(halfSpectra(set), options),
      stochasticSubspace(set, options),
    ])
      for (const m of two) {
        const found = near((orders.find((o) => o.order >= 12) ?? orders.at(-1)!).poles, m);
        expect(found.hz / m.hz).toBeCloseTo(1, 6);
        expect(found.damping / m.damping).toBeCloseTo(1, 4);
      }
  });
  test('only the orders that are asked for, as they are among all', () => {
    const only = new Set([12]);
    const [one, ...rest] = leastSquaresComplexFrequency(halfSpectra(set), { ...options, only });
    expect(rest).toEqual([]);
    expect(one).toEqual(leastSquaresComplexFrequency(halfSpectra(set), options).find((o) => o.order === 12));
    // Without noise four states are all there are.
    expect(stochasticSubspace(set, { ...options, only: new Set([4]) }).map((o) => o.order)).toEqual([4]);
  });
  test('orders that lags or lines do not carry are refused with how many they do', () => {
    const short = known(two, 16);
    expect(() => stochasticSubspace(short, { ...options, order: 60 })).toThrow(/16 lags carry no more than/);
    expect(() => leastSquaresComplexFrequency(halfSpectra(short), { ...options, order: 60 })).toThrow(
      /9 lines, which carry no more than/,
    );
    expect(() => leastSquaresComplexFrequency(halfSpectra(set), { ...options, order: 2 })).toThrow(
      /Give 6 or more/,
    );
  });
  test('stopped while it fits', () => {
    const signal = { aborted: true };
    expect(() => leastSquaresComplexFrequency(halfSpectra(set), options, () => undefined, signal)).toThrow(
      /Cancelled/,
    );
    expect(() => stochasticSubspace(set, options, () => undefined, signal)).toThrow(/Cancelled/);
  });
  test('what cannot be a mode is hidden and counted by its reason', () => {
    const w = 2 * Math.PI * 20;
    const s: [number, number][] = [
      [-0.01 * w, w],
      [-0.01 * w, -w],
      [0.05 * w, w],
      [-0.5 * w, w],
      [-3, 0],
      [-1, 9 * w],
      [0.0005 * w, w],
    ];
    const { poles, left } = physical(8, s, band, 0, () => ({
      participation: { re: new Float64Array(1), im: new Float64Array(1) },
    }));
    expect(left).toEqual({ negative: 1, heavy: 1, real: 1, outside: 1 });
    // A steady tone, a little below nothing, stays.
    expect(poles.length).toBe(2);
  });
});

describe('coming to rest', () => {
  const pole = (hz: number, damping: number, re = [1, 0.5]): JudgedPole => ({
    hz,
    damping,
    rest: 0,
    shape: { re: Float64Array.from(re), im: new Float64Array(2) },
    participation: { re: Float64Array.of(1), im: Float64Array.of(0) },
  });
  const tolerances = { frequency: 0.01, damping: 0.1, shape: 0.95 };
  const orders = (lists: JudgedPole[][]) =>
    lists.map((poles, k) => ({
      order: 2 * (k + 1),
      poles,
      left: { negative: 0, heavy: 0, real: 0, outside: 0 },
    }));
  const lines = {
    responses: 2,
    references: 1,
    hz: new Float64Array(0),
    re: new Float64Array(0),
    im: new Float64Array(0),
    lags: null,
  };
  const rests = (...lists: JudgedPole[][]): Rest[] =>
    judged(lines, orders(lists), tolerances, 'no residuals', 0)
      .at(-1)!
      .poles.map((p) => p.rest);
  test.each<[string, JudgedPole, JudgedPole, Rest]>([
    ['far in frequency', pole(10, 0.01), pole(10.2, 0.01), 0],
    ['near in frequency alone', pole(10, 0.01), pole(10.05, 0.02), 1],
    ['in damping too', pole(10, 0.01, [1, -2]), pole(10.05, 0.0105), 2],
    ['in shape too', pole(10, 0.01, [-2, -1]), pole(10.05, 0.0105), 3],
    ['two steady tones, each with next to no damping', pole(10, 1e-5), pole(10, -1e-4), 3],
  ])('%s', (_, before, now, rest) => expect(rests([before], [now])).toEqual([rest]));

  test('clusters: what rests in half of the orders is suggested by its median; what rests now and then is not', () => {
    const steady = Array.from({ length: 8 }, (_, k) => pole(10 + 0.001 * k, 0.01 + 0.0001 * k));
    const found = judged(
      lines,
      orders(steady.map((p, k) => (k === 3 ? [p, pole(30, 0.02, [1, -1])] : [p]))),
      tolerances,
      'no residuals',
      0,
    );
    const clusters = clustersOf(found, tolerances);
    expect(clusters.length).toBe(1);
    expect(clusters[0].hz).toBeGreaterThan(10.002);
    expect(clusters[0].hz).toBeLessThan(10.006);
    expect(clusters[0].members.length).toBe(7);
    expect([8, 10]).toContain(clusters[0].best.order);
  });
  test('a smaller group beside a larger one with its shape is that mode split, not another', () => {
    const both = Array.from({ length: 10 }, (_, k) => [
      pole(10, 0.01),
      ...(k > 3 ? [pole(10.4, 0.03, [1, 0.55])] : []),
    ]);
    expect(clustersOf(judged(lines, orders(both), tolerances, 'no residuals', 0), tolerances).length).toBe(1);
    const across = Array.from({ length: 10 }, (_, k) => [
      pole(10, 0.01),
      ...(k > 3 ? [pole(10.4, 0.03, [-0.5, 1])] : []),
    ]);
    expect(clustersOf(judged(lines, orders(across), tolerances, 'no residuals', 0), tolerances).length).toBe(
      2,
    );
  });
  test('density counts the poles of all orders', () => {
    const found = judged(
      lines,
      orders([[pole(10, 0.01), pole(15, 0.01)], [pole(10, 0.01)]]),
      tolerances,
      'no residuals',
      0,
    );
    expect([...poleDensity(found, { fromHz: 8, toHz: 18 }, 5)]).toEqual([0, 2, 0, 1, 0]);
  });
  test('a pick is found again where its mode has gone, by its shape; where it has gone out, it is not', () => {
    const moved = judged(
      lines,
      orders(Array.from({ length: 6 }, () => [pole(10.1, 0.011), pole(10.2, 0.01, [-0.5, 1])])),
      tolerances,
      'no residuals',
      0,
    );
    const fit: FitResult = { orders: moved, clusters: [], says: [] };
    const was = { hz: 10.18, order: 8, shape: { re: [1, 0.5], im: [0, 0] } };
    expect(foundAgain(fit, was, tolerances)).toEqual({ order: 8, index: 0 });
    expect(foundAgain(fit, { ...was, hz: 14 }, tolerances)).toBeNull();
    // Without a shape, the frequency alone counts.
    expect(foundAgain(fit, { ...was, shape: { re: [], im: [] } }, tolerances)?.index).toBe(1);
  });
});

test('askew: upright stays upright, what is nearer lies lower, and lengths along the axes keep their order', () => {
  const { x, y } = askew([0, 0, 0, 0, 0, 1, 1, 0, 0, 0, 1, 0]);
  expect(x[1]).toBeCloseTo(x[0], 12);
  expect(y[1]).toBeLessThan(y[0]);
  // Before the origin toward the eye is lower on the page.
  const near = askew([-1, -1.35, 0]);
  expect(near.y[0]).toBeGreaterThan(0);
  expect(Math.abs(near.x[0])).toBeLessThan(1e-9);
});
