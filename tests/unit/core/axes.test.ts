import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { placeLabels } from '$core/layout/labels';
import { timeTicks } from '$core/figures/ticks';
import { clockText, timeDecimals } from '$core/readings';

describe('ticks of a time axis', () => {
  test.each([
    [0, 160, [0, 30, 60, 90, 120, 150]],
    [0, 300, [0, 60, 120, 180, 240, 300]],
    [-60, 0, [-60, -50, -40, -30, -20, -10, 0]],
    [0, 3600, [0, 600, 1200, 1800, 2400, 3000, 3600]],
    [0, 86_400, [0, 21_600, 43_200, 64_800, 86_400]],
    [0, 0.004, [0, 0.001, 0.002, 0.003, 0.004]],
  ])('from %d to %d s stand at times that are round on a clock', (from, to, wanted) =>
    expect(timeTicks(from, to).ticks).toEqual(wanted),
  );
  test('there are at least three on any span of three seconds and more, none is beyond it, all are steps apart', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e5, max: 1e5, noNaN: true }),
        fc.double({ min: 3, max: 1e6, noNaN: true }),
        (from, span) => {
          const { ticks } = timeTicks(from, from + span);
          expect(ticks.length).toBeGreaterThanOrEqual(3);
          expect(ticks.length).toBeLessThanOrEqual(40);
          for (const t of ticks) {
            expect(t).toBeGreaterThanOrEqual(from - 1e-3);
            expect(t).toBeLessThanOrEqual(from + span + 1e-3);
          }
          const steps = new Set(ticks.slice(1).map((t, i) => Number((t - ticks[i]).toFixed(6))));
          expect(steps.size).toBe(1);
        },
      ),
    );
  });
  test('a time has the digits that its samples deserve', () => {
    expect([1, 10, 100, 1000, 51_200, 1e6].map(timeDecimals)).toEqual([2, 2, 2, 3, 5, 6]);
    expect(clockText(1 / 51_200, timeDecimals(51_200))).toBe('00:00.00002');
  });
});

test('names of marks never lie over each other nor over the ends of the axis', () => {
  const character = 6.4;
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.double({ min: 0, max: 600, noNaN: true }), fc.string({ maxLength: 40 })), {
        maxLength: 20,
      }),
      fc.integer({ min: 1, max: 3 }),
      (list, rows) => {
        const marks = list.map(([x, text]) => ({ x, text })).sort((a, b) => a.x - b.x);
        const placed = placeLabels(marks, 600, { rows, character });
        const spans = placed.map(({ text, left, row }, i) => {
          const width = text.length * character;
          return { row, from: left ? marks[i].x - width : marks[i].x, to: left ? marks[i].x : marks[i].x + width, text }; // prettier-ignore
        });
        for (const s of spans) {
          if (!s.text) continue;
          expect(s.from).toBeGreaterThanOrEqual(-1e-9);
          expect(s.to).toBeLessThanOrEqual(600 + 1e-9);
          for (const o of spans)
            if (o !== s && o.text && o.row === s.row)
              expect(o.to <= s.from + 1e-9 || o.from >= s.to - 1e-9, `${o.text} over ${s.text}`).toBe(true);
        }
      },
    ),
  );
});
