import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Figure, NamedMark } from '$core/figures/figure';
import { classLabel, placesOf, roundEnds } from '$core/figures/slide-data';

const line = (y: number[]): NamedMark => ({ mark: 'line', name: 'Load', x: { from: 2, step: 0.5, length: y.length }, y }); // prettier-ignore

describe('numbers of a drawing for a chart that can be edited', () => {
  test('a short curve is given point by point, a gap as nothing', () => {
    expect(placesOf(line([1, NaN, 3]), 100)).toEqual({ x: [2, 2.5, 3], y: [1, null, 3] });
    expect(placesOf({ mark: 'bar', name: 'Time', x: [10, 20], y: [5, 7] }, 100)).toEqual({
      x: [10, 20],
      y: [5, 7],
    });
    expect(placesOf({ mark: 'band', name: 'Load', x: [0, 1], low: [1, NaN], high: [3, NaN] }, 9)).toEqual({ x: [0, 1], y: [2, null] }); // prettier-ignore
  });

  test('a long one stays between its extremes, in its order, and is never longer than is wanted', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof({ weight: 9, arbitrary: fc.double({ min: -1e6, max: 1e6, noNaN: true }) }, fc.constant(NaN)), { minLength: 1, maxLength: 900 }), fc.integer({ min: 1, max: 200 }), (y, most) => {
        const { x, y: got } = placesOf(line(y), most);
        expect(x.length).toBe(got.length);
        expect(got.length).toBeLessThanOrEqual(most);
        const there = y.filter((v) => !Number.isNaN(v));
        for (const v of got)
          if (v !== null) {
            expect(v).toBeGreaterThanOrEqual(Math.min(...there) - 1e-9);
            expect(v).toBeLessThanOrEqual(Math.max(...there) + 1e-9);
          }
        // Only a stretch without any sample is a gap.
        expect(got.every((v) => v === null)).toBe(there.length === 0);
        for (let i = 1; i < x.length; i++) expect(x[i]).toBeGreaterThan(x[i - 1]);
        expect(x[0]).toBeGreaterThanOrEqual(2);
        expect(x.at(-1)).toBeLessThanOrEqual(2 + 0.5 * (y.length - 1) + 1e-9);
      }),
      { numRuns: 200 },
    ); // prettier-ignore
  });

  test('classes are called by their names, values by six digits', () => {
    const figure = (x: Partial<Figure['x']>): Figure => ({ title: '', x: { label: '', unit: '', scale: 'linear', ...x }, y: { label: '', unit: '', scale: 'linear' }, marks: [] }); // prettier-ignore
    const classes = figure({ scale: 'classes', classes: ['0 to 120 µε', 'over 120 µε'] });
    expect([classLabel(classes, 1), classLabel(classes, 7)]).toEqual(['over 120 µε', '7']);
    expect(classLabel(figure({}), 1 / 3)).toBe('0.333333');
  });
});

test('ends of an axis are round, never within those of the figure, and hardly beyond them', () => {
  expect(roundEnds([1.61531, 21.6153])).toEqual([1, 22]);
  expect(roundEnds([0, 252.583])).toEqual([0, 260]);
  expect(roundEnds([-0.0123, 0.0311])).toEqual([-0.013, 0.032]);
  expect(roundEnds([5, 5])).toEqual([5, 5]);
  fc.assert(
    fc.property(
      fc.double({ min: -1e6, max: 1e6, noNaN: true }),
      fc.double({ min: 1e-3, max: 1e6, noNaN: true }),
      (low, span) => {
        const [a, b] = roundEnds([low, low + span]);
        expect(a).toBeLessThanOrEqual(low + span * 1e-6);
        expect(b).toBeGreaterThanOrEqual(low + span * (1 - 1e-6));
        expect(b - a).toBeLessThanOrEqual(span * 1.25);
      },
    ),
  );
});
