import fc from 'fast-check';
import { classTouched, placeIn, touchedIn } from '$core/figures/together';
import { describe, expect, test } from 'vitest';
import {
  nearest,
  placeAt,
  type Figure,
  type FigureAxis,
  type HeatMark,
  type Mark,
} from '$core/figures/figure';
import { cellAt, coarser, heatColours, heatRange, heatShare } from '$core/figures/heat';
import { horizontalEnds, layoutFigure, thinned, uprightEnds } from '$core/figures/layout';
import { paintFigure, paintStack } from '$core/figures/paper';
import { nextPlace, readFigure } from '$core/figures/reading';
import { axisScale, axisText, axisTicks } from '$core/figures/scale';
import { rowsOf, tablesOf } from '$core/figures/table';
import { HEAT, NIGHT_HEAT, PAPER_INK } from '$contract/palette';

const axis = (scale: FigureAxis['scale'], more: Partial<FigureAxis> = {}): FigureAxis => ({
  label: 'a',
  unit: 'V',
  scale,
  ...more,
});
const figure = (marks: Mark[], x = axis('linear'), y = axis('linear')): Figure => ({
  title: 'F',
  x,
  y,
  marks,
});
const finite = fc.double({ min: -1e9, max: 1e9, noNaN: true });

describe('scales', () => {
  test('lead there and back, with the ends at the ends', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('linear', 'logarithmic', 'decibel', 'time', 'angle'),
        fc.double({ min: 1e-6, max: 1e6, noNaN: true }),
        fc.double({ min: 1.01, max: 1e6, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (kind, low, factor, share) => {
          const scale = axisScale(axis(kind), [low, low * factor], [50, 450], 6);
          expect(scale.at(low)).toBeCloseTo(50, 6);
          expect(scale.at(low * factor)).toBeCloseTo(450, 6);
          const place = 50 + 400 * share;
          expect(scale.at(scale.valueAt(place))).toBeCloseTo(place, 5);
        },
      ),
    );
  });

  test('ticks lie within the axis, rise, are about as many as asked for, and no two say the same', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('linear', 'logarithmic', 'decibel', 'time', 'angle'),
        fc.double({ min: 1e-9, max: 1e9, noNaN: true }),
        fc.double({ min: 1.001, max: 1e12, noNaN: true }),
        fc.integer({ min: 2, max: 9 }),
        (kind, low, factor, wanted) => {
          const high = low * factor;
          const ticks = axisTicks(axis(kind), low, high, wanted);
          for (const { value } of ticks) {
            expect(value).toBeGreaterThanOrEqual(low - (high - low) * 1e-6);
            expect(value).toBeLessThanOrEqual(high * (1 + 1e-6));
          }
          expect(ticks.length).toBeLessThanOrEqual(2 * wanted + 8);
          for (let k = 1; k < ticks.length; k++) expect(ticks[k].value).toBeGreaterThan(ticks[k - 1].value);
          if (kind !== 'angle') expect(new Set(ticks.map((t) => t.text)).size).toBe(ticks.length);
        },
      ),
    );
  });

  test('a value that has no logarithm has no place; a level of amplitudes doubles every 6.02 dB, of powers every 3.01', () => {
    const log = axisScale(axis('logarithmic'), [0.1, 1000], [0, 400], 5);
    for (const none of [0, -3, NaN]) expect(log.at(none)).toBeNaN();
    expect(log.at(10)).toBeCloseTo(200, 9);
    expect(log.ticks.map((t) => t.text)).toEqual(['0.1', '1', '10', '100', '1000']);
    const level = axis('decibel', { reference: 2e-5 });
    expect(axisText(level, 2e-5 * 2)).toBe('6.0 dB');
    expect(axisText({ ...level, power: true }, 2e-5 * 2)).toBe('3.0 dB');
    expect(axisText(level, 0)).toBe('–');
    // 94 dB re 20 µPa is one pascal: the tick at 100 dB stands at 2 Pa.
    const tick = axisTicks(level, 2e-5, 20, 6).find((t) => t.text === '100')!;
    expect(tick.value).toBeCloseTo(2, 9);
  });

  test('never one tick alone where two can be had: one says nothing of the scale', () => {
    fc.assert(
      fc.property(finite, fc.double({ min: 1e-3, max: 1e6, noNaN: true }), fc.integer({ min: 2, max: 4 }), (low, span, wanted) => {
        if (!(low + span > low + span / 2)) return;
        const { ticks } = axisScale(axis('linear'), [low, low + span], [0, 100], wanted);
        // Three can be read, and a short axis is not crowded by what it takes to reach them: over a span below 15 steps of 5 may show two only, and
        // steps of 2 show eight then.
        expect(ticks.length).toBeGreaterThanOrEqual(3);
        expect(ticks.length).toBeLessThanOrEqual(Math.max(8, wanted + 2));
        expect(axisScale(axis('linear'), [low, low + span], [0, 40], wanted).ticks.length).toBeGreaterThanOrEqual(2);
      }),
    ); // prettier-ignore
    // Begins a hair above a tick, so that this is lost, and no step down to a third of what was wanted shows three.
    expect(axisScale(axis('linear'), [5.000000000000001e-10, 1.2012012012012014 + 5e-10], [0, 100], 2).ticks.length).toBeGreaterThanOrEqual(3); // prettier-ignore
  });

  test('angles step by parts of a circle, classes by their names, days by the calendar, decades by powers', () => {
    expect(axisTicks(axis('angle'), 0, 360, 8).map((t) => t.value)).toEqual([
      0, 45, 90, 135, 180, 225, 270, 315, 360,
    ]);
    expect(axisTicks(axis('angle'), -30, 30, 4).map((t) => t.value)).toEqual([-30, -15, 0, 15, 30]);
    const classes = axis('classes', { classes: ['31.5', '63', '125', '250'] });
    expect(axisTicks(classes, -0.5, 3.5, 8).map((t) => t.text)).toEqual(['31.5', '63', '125', '250']);
    expect(axisTicks(classes, -0.5, 3.5, 2).map((t) => t.text)).toEqual(['31.5', '125']);
    expect(axisText(classes, 2.2)).toBe('125');
    const days = (from: string, to: string, n = 5) => axisTicks(axis('calendar'), Date.parse(from), Date.parse(to), n).map((t) => t.text); // prettier-ignore
    expect(days('2026-01-10', '2027-03-01', 4)).toEqual(['Apr 2026', 'Jul 2026', 'Oct 2026', 'Jan 2027']);
    expect(days('2026-03-01', '2026-03-20', 4)).toEqual(['1 Mar', '8 Mar', '15 Mar']);
    expect(days('2010-03-01', '2026-03-20', 4)).toEqual(['2015', '2020', '2025']);
    expect(days('2026-03-01T00:30Z', '2026-03-01T04:30Z', 4)).toEqual(['01:00', '02:00', '03:00', '04:00']);
    const far = axisTicks(axis('logarithmic'), 1e-8, 1e-2, 4);
    expect(far.map((t) => t.text)).toEqual(['10⁻⁸', '10⁻⁶', '10⁻⁴', '10⁻²']);
    expect(far.map((t) => t.exponent)).toEqual([-8, -6, -4, -2]);
  });
});

describe('the ends of axes', () => {
  test('hold all that is drawn, are never one and the same, and stand as they are said', () => {
    const values = fc.array(fc.oneof(finite, fc.constantFrom(NaN, Infinity, -Infinity)), { maxLength: 30 });
    fc.assert(
      fc.property(values, fc.constantFrom('linear', 'logarithmic', 'decibel', 'time'), (ys, kind) => {
        const f = figure([{ mark: 'line', name: 'l', x: { from: 0, step: 1, length: ys.length }, y: ys }], axis('linear'), axis(kind)); // prettier-ignore
        const [low, high] = uprightEnds(f);
        expect(high).toBeGreaterThan(low);
        const log = kind === 'logarithmic' || kind === 'decibel';
        for (const v of ys)
          if (Number.isFinite(v) && (!log || v > 0)) {
            expect(v).toBeGreaterThanOrEqual(low);
            expect(v).toBeLessThanOrEqual(high);
          }
        const [a, b] = horizontalEnds(f);
        expect(b).toBeGreaterThan(a);
      }),
    );
    const said = figure([{ mark: 'line', name: 'l', x: [0, 1], y: [5, 9] }], axis('linear', { min: 0, max: 4 }), axis('linear', { min: -1 })); // prettier-ignore
    expect(horizontalEnds(said)).toEqual([0, 4]);
    expect(uprightEnds(said)[0]).toBe(-1);
  });

  test('bars reach to their edges and their base, reaches count, heat fills its box, a part counts only what is in it', () => {
    expect(horizontalEnds(figure([{ mark: 'bar', name: 'b', x: [1, 2, 3], y: [4, 5, 6] }]))).toEqual([
      0.5, 3.5,
    ]);
    expect(uprightEnds(figure([{ mark: 'bar', name: 'b', x: [1, 2], y: [4, 5] }]))[0]).toBeLessThanOrEqual(0);
    expect(
      uprightEnds(figure([{ mark: 'points', name: 'p', x: [0], y: [1], reach: [3] }]))[1],
    ).toBeGreaterThan(4);
    const heat: HeatMark = { mark: 'heat', name: 'h', x: [0, 1, 2], y: { from: 10, step: 5, length: 4 }, z: new Float32Array(6) }; // prettier-ignore
    expect(horizontalEnds(figure([heat]))).toEqual([0, 2]);
    expect(uprightEnds(figure([heat]))).toEqual([10, 25]);
    const peak = figure([{ mark: 'line', name: 'l', x: [0, 1, 2, 3, 4, 5], y: [0, 1, 0, 1, 0, 900] }]);
    expect(uprightEnds(peak)[1]).toBeGreaterThan(900);
    expect(uprightEnds(peak, [0, 3])[1]).toBeLessThan(2);
  });
});

describe('thinning a line', () => {
  test('keeps its extremes, its order and its gaps, and never more than a few points a column', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof({ weight: 20, arbitrary: finite }, { weight: 1, arbitrary: fc.constant(NaN) }), { minLength: 200, maxLength: 3000 }), // prettier-ignore
        fc.integer({ min: 3, max: 60 }),
        (ys, columns) => {
          const x = { from: 2, step: 0.5, length: ys.length };
          const thin = thinned(x, ys, [2, placeAt(x, ys.length - 1)], columns);
          expect(thin.x.length).toBeLessThanOrEqual(Math.max(4 * columns, 3 * columns));
          const real = ys.filter((v) => !Number.isNaN(v));
          const kept = [...thin.y].filter((v) => !Number.isNaN(v));
          expect(Math.max(...kept)).toBe(Math.max(...real));
          expect(Math.min(...kept)).toBe(Math.min(...real));
          for (let i = 1; i < thin.x.length; i++) expect(thin.x[i]).toBeGreaterThan(thin.x[i - 1]);
          if (ys.includes(NaN)) expect([...thin.y].some(Number.isNaN)).toBe(true);
        },
      ),
    );
  });
  test('leaves a loop as it is, and takes a part with its neighbours', () => {
    const loop = { x: [0, 2, 1, 0], y: [0, 1, 2, 3] };
    expect([...thinned(loop.x, loop.y, [0, 2], 1).x]).toEqual(loop.x);
    const part = thinned([0, 1, 2, 3, 4, 5], [0, 1, 4, 9, 16, 25], [1.5, 3.5], 100);
    expect([...part.x]).toEqual([1, 2, 3, 4]);
  });
});

describe('a cursor', () => {
  test('finds the nearest place, listed or even', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -500, max: 500 }), { minLength: 1 }),
        finite,
        (places, at) => {
          const sorted = places.sort((a, b) => a - b);
          const found = sorted[nearest(sorted, at)];
          expect(Math.abs(found - at)).toBe(Math.min(...sorted.map((p) => Math.abs(p - at))));
        },
      ),
    );
    expect(nearest({ from: 10, step: 2, length: 5 }, 15.1)).toBe(3);
    expect(nearest([], 1)).toBe(-1);
  });
  test('reads each mark at its own nearest place, a held value until the next, a band both ends, heat its cell', () => {
    const heat: HeatMark = { mark: 'heat', name: 'h', x: [0, 1, 2], y: [10, 20, 40], z: [1, 2, 3, 4] };
    const f = figure([
      { mark: 'line', name: 'l', x: [0, 1, 2], y: [5, 6, 7] },
      { mark: 'step', name: 's', x: [0, 1, 2], y: [5, 6, 7] },
      {
        mark: 'band',
        name: 'b',
        x: { from: 0, step: 0.4, length: 4 },
        low: [0, 1, 2, 3],
        high: [9, 8, 7, 6],
      },
      heat,
      { mark: 'text', x: 0, y: 0, says: 'hello' },
    ]);
    const read = readFigure(f, 0.9, 30).map((r) => [r.mark.name, r.x, r.value, r.to]);
    expect(read).toEqual([
      ['l', 1, 6, undefined],
      ['s', 0, 5, undefined],
      ['b', 0.8, 2, 7],
      ['h', 0.9, 3, undefined],
    ]);
    expect(readFigure(f, 0.9, 50).map((r) => r.mark.name)).not.toContain('h'); // above the picture
    expect([nextPlace(f, 1, 1), nextPlace(f, 1, -1), nextPlace(f, 2, 1)]).toEqual([2, 0, null]);
    expect(cellAt([0, 1, 4], 4)).toBe(1);
    expect(cellAt([0, 1, 4], 4.1)).toBe(-1);
  });
});

describe('heat', () => {
  const mark = (z: number[], more: Partial<HeatMark> = {}): HeatMark => ({
    mark: 'heat',
    name: 'h',
    x: { from: 0, step: 1, length: 5 },
    y: { from: 0, step: 1, length: 3 },
    z,
    ...more,
  });
  test('colours run from end to end, ever darker by day and lighter at night, also in grey', () => {
    const grey = ([r, g, b]: number[]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;
    for (const [ends, sign] of [[HEAT, -1], [NIGHT_HEAT, 1]] as [readonly [string, string], number][]) {
      const [from, to] = ends;
      const colours = heatColours(from, to, 32).map(grey);
      for (let k = 1; k < colours.length; k++) expect(Math.sign(colours[k] - colours[k - 1])).toBe(sign);
    } // prettier-ignore
  });
  test('a share runs from 0 to 1, by level where that is asked for; what is missing has none', () => {
    const linear = mark([0, 1, 2, 3, 4, 5, 6, NaN]);
    expect(heatRange(linear)).toEqual([0, 6]);
    const share = heatShare(linear, [0, 6]);
    expect([share(0), share(3), share(6), share(9)]).toEqual([0, 0.5, 1, 1]);
    expect(share(NaN)).toBeNaN();
    const log = mark([0, 1, 10, 100, 1e9], { logarithmic: true });
    const [low, high] = heatRange(log);
    expect(high / low).toBeCloseTo(1e4, 6);
    expect(heatShare(log, [1, 100])(10)).toBeCloseTo(0.5, 9);
    expect(heatShare(log, [1, 100])(0)).toBe(0);
  });
  test('made coarser, a picture keeps its edges and the highest of each cell', () => {
    const wide = mark(Array.from({ length: 8 }, (_, i) => i));
    const small = coarser(wide, 2, 1);
    expect([placeAt(small.x, 0), placeAt(small.x, 1), placeAt(small.x, 2)]).toEqual([0, 2, 4]);
    expect([placeAt(small.y, 0), placeAt(small.y, 1)]).toEqual([0, 2]);
    expect([...(small.z as Float64Array)]).toEqual([5, 7]);
    expect(coarser(wide, 4, 2)).toBe(wide);
  });
});

describe('tables of figures', () => {
  test('are made from what is drawn: one for each mark with a name, missing numbers empty', () => {
    const f = figure(
      [
        { mark: 'line', name: 'l', unit: 'mV', x: { from: 1, step: 2, length: 3 }, y: [4, NaN, 6] },
        { mark: 'points', name: 'p', x: [1], y: [2], reach: [0.5] },
        { mark: 'heat', name: 'h', unit: 'g', x: [0, 2, 4], y: [0, 10], z: [7, 8] },
        { mark: 'dimension', along: 'x', from: 0, to: 1, level: 3, says: '1 s' },
      ],
      axis('linear', { label: 'Time', unit: 's' }),
      axis('linear', { label: 'Level', unit: 'V' }),
    );
    const tables = tablesOf(f);
    expect(tables.map((t) => t.title)).toEqual(['F: l', 'F: p', 'F: h']);
    expect(rowsOf(tables[0])).toEqual([[1, 4], [3, null], [5, 6]]); // prettier-ignore
    expect(tables[0].columns.map((c) => `${c.label} ${c.unit}`)).toEqual(['Time s', 'Level mV']);
    expect(rowsOf(tables[1])).toEqual([[1, 2, 0.5]]);
    expect(rowsOf(tables[2])).toEqual([[1, 5, 7], [3, 5, 8]]); // prettier-ignore
    expect(rowsOf(tables[0], 1, 9)).toHaveLength(2);
    const named = figure(
      [{ mark: 'bar', name: 'b', x: [0, 1], y: [3, 4] }],
      axis('classes', { classes: ['A', 'B'] }),
    );
    expect(rowsOf(tablesOf(named)[0])).toEqual([['A', 3], ['B', 4]]); // prettier-ignore
    expect(tablesOf(named)[0].columns[0].numeric).toBe(false);
  });
});

describe('on paper', () => {
  const every: Mark[] = [
    { mark: 'line', name: 'line', x: [0, 1, 2, 3], y: [1, NaN, 2, 1] },
    { mark: 'step', name: 'step', x: [0, 1, 2], y: [0, 1, 2], dashed: true },
    { mark: 'bar', name: 'bar', x: [0, 1, 2], y: [1, 2, 3] },
    { mark: 'band', name: 'band', x: [0, 1, 2], low: [0, 0, 0], high: [1, 1, 1], tone: 'good' },
    {
      mark: 'points',
      name: 'points',
      x: [0, 1],
      y: [1, 2],
      reach: [0.1, 0.2],
      shape: 'diamond',
      tone: 'warning',
    },
    { mark: 'stems', name: 'stems', x: [0, 1], y: [1, 2] },
    { mark: 'text', x: 1, y: 1, says: 'a < b & "c"' },
    { mark: 'dimension', along: 'x', from: 0.5, to: 1.5, level: 2, says: '1 s' },
    { mark: 'dimension', along: 'y', from: 1, to: 2, level: 0.5, says: '1 V' },
  ];
  const heat: Mark = { mark: 'heat', name: 'heat', x: { from: 0, step: 1, length: 4 }, y: [0, 1, 3], z: [0, 1, 2, NaN, 4, 5] }; // prettier-ignore

  test('every mark is drawn, on every scale, without a number that is none', () => {
    for (const scale of ['linear', 'logarithmic', 'decibel', 'time', 'angle'] as const)
      for (const marks of [every, [heat], []]) {
        const svg = paintFigure(figure(marks, axis('linear'), axis(scale)), PAPER_INK, {
          width: 500,
          height: 190,
        });
        expect(svg).not.toMatch(/NaN|Infinity|undefined/);
        expect(svg.startsWith('<svg')).toBe(true);
        for (const mark of marks) if ('name' in mark) expect(svg).toContain(`>${mark.name}<`);
      }
    const svg = paintFigure(figure(every), PAPER_INK, { width: 500, height: 190 });
    expect(svg).toContain('a &lt; b &amp; &quot;c&quot;');
    expect(svg.match(/<rect/g)).toHaveLength(3); // bars
    expect(svg.match(/<circle/g)).toHaveLength(2); // heads of the stems
    // The line is broken at its gap: two pieces, of which the single point leaves one drawn start.
    const [line] = svg.match(/<path d="M[^"]*" fill="none" stroke="#7A2E4D"/)!;
    expect(line.match(/M/g)).toHaveLength(2);
  });

  test('a step holds its value until the next', () => {
    const svg = paintFigure(figure([{ mark: 'step', name: 's', x: [0, 1, 2], y: [0, 1, 2] }]), PAPER_INK, { width: 500, height: 190 }); // prettier-ignore
    const layout = layoutFigure(figure([{ mark: 'step', name: 's', x: [0, 1, 2], y: [0, 1, 2] }]), { x: 52, y: 22, width: 440, height: 138 }); // prettier-ignore
    const [path] = svg.match(/M52\.00 [^"]*/)!;
    expect(path).toBe(
      `M52.00 ${layout.y.at(0).toFixed(2)}H${layout.x.at(1).toFixed(2)}V${layout.y.at(1).toFixed(2)}H492.00V${layout.y.at(2).toFixed(2)}H492.00`,
    );
  });

  test('heat is run together where neighbours are alike: as many paths as colours, whatever the number of cells', () => {
    const z = Float32Array.from({ length: 400 * 300 }, (_, i) => Math.sin(i / 400));
    const big: Mark = { mark: 'heat', name: 'h', x: { from: 0, step: 1, length: 401 }, y: { from: 0, step: 1, length: 301 }, z }; // prettier-ignore
    const svg = paintFigure(figure([big]), PAPER_INK, { width: 500, height: 300 });
    expect(svg.match(/<path/g)!.length).toBeLessThanOrEqual(24);
    expect(svg.length).toBeLessThan(1.5e6);
  });

  test('strips share one axis: a moment lies at one place through all of them', () => {
    const strip = (name: string): Figure => figure([{ mark: 'band', name, x: [0, 10], low: [0, 1], high: [1, 2], solid: true }], axis('time', { unit: 's' })); // prettier-ignore
    const svg = paintStack([strip('a'), strip('b')], PAPER_INK, { width: 500 }, [0, 10], [5, 11]);
    expect(svg.match(/stroke-dasharray="0.8 2.4"/g)).toHaveLength(1); // 11 s is not shown
    expect(svg).toContain(`x1="${(52 + 220).toFixed(2)}"`);
    expect(svg).toContain('height="166.00"');
  });
});

describe('a place that is touched', () => {
  const classes: Figure = { title: 'Bars', x: { label: 'Class', unit: '1', scale: 'classes', classes: ['0 to 2', '2 to 4', '4 to 6'], middles: { from: 1, step: 2, unit: 'kN' } }, y: { label: 'y', unit: 's', scale: 'linear' }, marks: [] }; // prettier-ignore
  const curve = (unit: string, scale: 'linear' | 'time' = 'linear'): Figure => ({ title: 'Curve', x: { label: 'Load', unit, scale }, y: { label: 'y', unit: '%', scale: 'linear' }, marks: [] }); // prettier-ignore
  test('is found in the drawings of the same axis, and of the same values', () => {
    expect(placeIn(classes, touchedIn(classes, 1.2))).toBe(1.2);
    expect(placeIn(curve('kN'), touchedIn(classes, 1.2))).toBe(3);
    expect(placeIn(classes, touchedIn(curve('kN'), 4.4))).toBe(2);
    expect(classTouched([curve('kN'), classes], touchedIn(curve('kN'), 4.4))).toBe('4 to 6');
  });
  test('is not found in another unit, beyond the classes, or in time', () => {
    expect(placeIn(curve('kN·m'), touchedIn(classes, 1))).toBeNull();
    expect(placeIn(classes, touchedIn(curve('kN'), 7))).toBeNull();
    expect(placeIn(curve('s', 'time'), touchedIn(curve('s'), 1))).toBeNull();
    expect(classTouched([curve('kN')], touchedIn(curve('kN'), 1))).toBeNull();
  });
});
