import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { against, bars, overTime, rowsOfColour, throughExtremes, type Extremes } from '$core/figures/forms';
import { placeAt, type BarMark, type HeatMark, type LineMark } from '$core/figures/figure';
import { horizontalEnds, uprightEnds } from '$core/figures/layout';
import { paintAxes } from '$core/figures/paper-axes';
import { placesOf } from '$core/figures/slide-data';
import { PAPER_INK } from '$contract/palette';

// The forms a curve can take on a page: each keeps what was measured.
const extremes = (low: number[], high: number[], change: Partial<Extremes> = {}): Extremes => ({
  name: 'Torque',
  unit: 'kN·m',
  colour: 1,
  x: { from: 0.5, step: 1, length: low.length },
  low: Float32Array.from(low),
  high: Float32Array.from(high),
  ...change,
});
const value = fc.float({ min: -1000, max: 1000, noNaN: true });

describe('a line through extremes', () => {
  test('keeps every peak, runs forward in time and has no more than two places for a stretch', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(value, value), { minLength: 1, maxLength: 40 }), (pairs) => {
        const [low, high] = [pairs.map(([a, b]) => Math.min(a, b)), pairs.map(([a, b]) => Math.max(a, b))];
        const { x, y } = throughExtremes(extremes(low, high));
        expect(Math.min(...y)).toBe(Math.min(...low));
        expect(Math.max(...y)).toBe(Math.max(...high));
        for (let i = 1; i < x.length; i++) expect(x[i]).toBeGreaterThan(x[i - 1]);
        expect(y.length).toBeLessThanOrEqual(2 * pairs.length);
        // Each stretch's own extremes lie within its own time.
        for (let k = 0; k < low.length; k++) {
          const own = [...y].filter((_, i) => x[i] >= k && x[i] < k + 1);
          expect([Math.min(...own), Math.max(...own)]).toEqual([low[k], high[k]]);
        }
      }),
    );
  });
  test('goes to the nearer end first, and a gap stays one', () => {
    expect([...throughExtremes(extremes([0, 4, 0], [0, 9, 5])).y]).toEqual([0, 4, 9, 5, 0]);
    expect([...throughExtremes(extremes([1, NaN, 2], [1, NaN, 2])).y]).toEqual([1, NaN, 2]);
  });
});

describe('a look of its own', () => {
  test('gives name, ends, colour, dashes and weight; without one the curve is as solid as its extremes', () => {
    const curve = extremes([0, 1], [2, 3]);
    expect(overTime(curve, 'lines', 'linear').marks[0]).toMatchObject({ mark: 'band', solid: true, colour: 1 }); // prettier-ignore
    const own = overTime(curve, 'lines', 'logarithmic', { label: 'M', from: -5, to: 20, colour: 4, line: 'dotted', weight: 'bold' }); // prettier-ignore
    expect(own).toMatchObject({ title: 'M', y: { label: 'M', min: -5, max: 20, scale: 'logarithmic' } });
    expect(own.marks[0]).toMatchObject({ mark: 'line', name: 'M', colour: 4, dashed: 'dotted', weight: 'bold' }); // prettier-ignore
    // Only a name or ends leave the curve as it comes.
    expect(overTime(curve, 'lines', 'linear', { label: 'M', from: 0 }).marks[0].mark).toBe('band');
    expect(overTime(curve, 'points', 'linear').marks[0].mark).toBe('points');
    expect(overTime(curve, 'steps', 'linear', { line: 'full' }).marks[0]).toMatchObject({ mark: 'step', dashed: false }); // prettier-ignore
  });
  test('is drawn so: dots, dashes and a full line differ on paper', () => {
    const dash = (line: 'full' | 'dashed' | 'dotted') =>
      /stroke-dasharray="([^"]*)" ?\/?>?/.exec(
        paintAxes([overTime(extremes([0, 1], [2, 3]), 'lines', 'linear', { line })], PAPER_INK, { width: 200, height: 100 }, [0, 2], { grid: false }), // prettier-ignore
      )?.[1];
    expect([dash('full'), dash('dashed'), dash('dotted')]).toEqual([undefined, '4 3', '0.9 2.2']);
  });
});

describe('bars', () => {
  const parts = (k: number) => ({ name: `C${k}`, unit: 'V', colour: k, from: 10, step: 4, values: Float64Array.of(1, -2, 3) }); // prettier-ignore
  test('of several channels stand beside each other within their part, never over a neighbour', () => {
    for (const all of [1, 2, 3, 7]) {
      const marks = Array.from(
        { length: all },
        (_, k) => bars(parts(k), k, all, 'linear').marks[0] as BarMark,
      );
      const ends = marks.flatMap((m, k) => [0, 1, 2].map((i) => ({ part: i, k, from: placeAt(m.x, i) - m.width! / 2, to: placeAt(m.x, i) + m.width! / 2 }))); // prettier-ignore
      for (const { part, from, to } of ends) {
        expect(from).toBeGreaterThanOrEqual(10 + 4 * part);
        expect(to).toBeLessThanOrEqual(10 + 4 * (part + 1));
      }
      ends.sort((a, b) => a.from - b.from);
      for (let i = 1; i < ends.length; i++)
        expect(ends[i].from).toBeGreaterThanOrEqual(ends[i - 1].to - 1e-9);
      expect(ends.map((e) => e.k).slice(0, all)).toEqual(Array.from({ length: all }, (_, k) => k));
    }
  });
  test('stand on zero, also where the axis is logarithmic and none is there', () => {
    expect(uprightEnds(bars(parts(0), 0, 1, 'linear'))[0]).toBeLessThan(-2);
    expect(uprightEnds(bars(parts(0), 0, 1, 'logarithmic'))).toEqual([1, 10]);
  });
});

describe('rows of colour', () => {
  const row = (name: string, unit: string, ...values: number[]) => ({ name, unit, colour: 0, from: 0, step: 1, values: Float64Array.from(values) }); // prettier-ignore
  test('have the first channel on top and share their colours where they share a unit', () => {
    const figure = rowsOfColour([row('A', 'V', 1, 2), row('B', 'V', 3, NaN)]);
    const mark = figure.marks[0] as HeatMark;
    expect(figure.y.classes).toEqual(['B', 'A']);
    expect([...(mark.z as Float64Array)]).toEqual([3, NaN, 1, 2]);
    expect(mark.unit).toBe('V');
    expect(horizontalEnds(figure)).toEqual([0, 2]);
  });
  test('of several units each go from their lowest to their highest; one that never changes is in the middle', () => {
    const mark = rowsOfColour([row('A', 'V', 10, 20, 15), row('B', 'A', 7, 7, NaN)]).marks[0] as HeatMark;
    expect([...(mark.z as Float64Array)]).toEqual([50, 50, NaN, 0, 100, 50]);
    expect(mark).toMatchObject({ unit: '%', name: 'Each from its lowest to its highest' });
  });
});

describe('one against the others', () => {
  const loop = Array.from({ length: 400 }, (_, i) => (i * Math.PI) / 100);
  const curves = [{ name: 'Force', unit: 'kN', colour: 2, x: Float32Array.from(loop, Math.cos), y: Float32Array.from(loop, Math.sin) }]; // prettier-ignore
  test('has the first one across with its name, unit and ends, and the pairs in their order', () => {
    const [figure] = against({ name: 'Travel', unit: 'mm' }, curves, 'linear', [{ colour: 5 }], { from: -2, to: 2 }); // prettier-ignore
    expect(figure.x).toEqual({ label: 'Travel', unit: 'mm', scale: 'linear', min: -2, max: 2 });
    expect(figure.marks[0]).toMatchObject({ mark: 'line', colour: 5, dashed: false });
    expect((figure.marks[0] as LineMark).y).toBe(curves[0].y);
  });
  test('is a loop on slides, too: pairs are thinned as pairs, not sorted by what lies across', () => {
    const [figure] = against({ name: 'Travel', unit: 'mm' }, curves, 'linear');
    const { x, y } = placesOf(figure.marks[0] as LineMark, 100);
    expect(x).toHaveLength(100);
    x.forEach((v, i) => expect(Math.hypot(v, y[i]!)).toBeCloseTo(1, 5));
    // Twice around.
    expect(x.filter((v) => v > 0.99).length).toBeGreaterThanOrEqual(2);
  });
});

describe('names at the lines', () => {
  test('stand at the right ends, in the order of the curves and never over each other', () => {
    const figures = [5, 5.01, 1].map(
      (level, k) =>
      overTime(extremes([level, level], [level, level], { name: `Curve ${k}`, colour: k }), 'lines', 'linear', { from: 0, to: 10 }), // prettier-ignore
    );
    const svg = paintAxes(figures, PAPER_INK, { width: 300, height: 160 }, [0, 2], { atLines: true });
    const at = [...svg.matchAll(/<text x="([\d.]+)" y="([\d.]+)"[^>]*>(Curve \d)</g)].map((m) => ({ x: Number(m[1]), y: Number(m[2]), name: m[3] })); // prettier-ignore
    expect(at.map((a) => a.name).sort()).toEqual(['Curve 0', 'Curve 1', 'Curve 2']);
    const byHeight = [...at].sort((a, b) => a.y - b.y);
    for (let i = 1; i < 3; i++) expect(byHeight[i].y - byHeight[i - 1].y).toBeGreaterThanOrEqual(9.99);
    expect(byHeight[2].name).toBe('Curve 2');
    expect(new Set(at.map((a) => a.x)).size).toBe(1);
  });
});
