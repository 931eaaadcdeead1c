import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { GRID_METHODS, OnGrid, type GridMethod } from '$core/samples/on-grid';
import { signal } from './format-files';

const at = (method: GridMethod, values: number[], times: number[], hz = 10, startNs = 0, stepS = 0.5) => {
  const reader = new OnGrid(signal('x', values, { rate: { num: hz, den: 1 }, startNs }), method, stepS);
  return times.map((t) => reader.at(t));
};

describe('values on a grid of times', () => {
  test('the last sample holds until the next, the nearest one is at most half a sample away, lines are straight', () => {
    const values = [0, 10, 20, NaN, 40];
    const times = [-0.1, 0, 0.04, 0.06, 0.1, 0.151, 0.25, 0.351, 0.4, 0.55];
    expect(at('the last sample before', values, times)).toEqual([NaN, 0, 0, 0, 10, 10, 20, NaN, 40, NaN]);
    expect(at('the nearest sample', values, times)).toEqual([NaN, 0, 0, 10, 10, 20, NaN, 40, 40, NaN]);
    const line = at('on the line between', values, times);
    expect(line.map((v) => (Number.isNaN(v) ? v : Math.round(v * 1e6) / 1e6))).toEqual([NaN, 0, 4, 6, 10, 15.1, NaN, NaN, 40, NaN]); // prettier-ignore
  });

  test('the mean of a step is that of the samples within it, those that are there; a slow signal gives its nearest', () => {
    const values = [1, 2, 3, 4, 5, 6, NaN, 8, 9, 10];
    expect(at('the mean of the step', values, [0, 0.5], 10, 0, 0.4)).toEqual([1.5, (4 + 5 + 6) / 3]);
    expect(at('the mean of the step', [7, 9], [0, 0.2, 0.4, 0.6, 1.1], 1, 0, 0.2)).toEqual([7, 7, 7, 9, 9]); // prettier-ignore
    expect(at('the mean of the step', [NaN, NaN], [0.05], 10, 0, 0.2)).toEqual([NaN]);
  });

  test('any way of reading gives what brute force gives, at rising times over long signals', () => {
    const long = Array.from({ length: 40_000 }, (_, i) =>
      i % 97 === 5 ? NaN : Math.fround(Math.sin(i / 50)),
    );
    fc.assert(
      fc.property(fc.constantFrom(...GRID_METHODS), fc.integer({ min: 1, max: 400 }), fc.integer({ min: 0, max: 2e9 }), (method, step, startNs) => {
        const hz = 1000;
        const stepS = step / 1000;
        const times = Array.from({ length: 60 }, (_, i) => Number((i * stepS * 11).toFixed(6)));
        const got = at(method, long, times, hz, startNs, stepS);
        const index = (t: number) => (t - startNs / 1e9) * hz;
        times.forEach((t, i) => {
          const exact = index(t);
          const low = Math.floor(exact + 1e-6);
          const near = Math.floor(exact + 0.5);
          const pick = (k: number) => (k >= 0 && k < long.length ? long[k] : NaN);
          if (method === 'the last sample before') expect(got[i]).toBe(pick(low));
          // Where it stands just between two samples, either may be meant.
          if (method === 'the nearest sample' && Math.abs(exact - low - 0.5) > 1e-6) expect(got[i]).toBe(pick(near));
          if (method === 'the mean of the step') {
            const within = long.flatMap((v, k) => (k >= exact - step / 2 - 1e-6 && k < exact + step / 2 - 1e-6 ? [v] : []));
            const there = within.filter((v) => !Number.isNaN(v));
            if (within.length) expect(got[i]).toBeCloseTo(there.length ? there.reduce((a, b) => a + b, 0) / there.length : NaN, 6);
          }
        });
      }),
      { numRuns: 40 },
    ); // prettier-ignore
  });
});
