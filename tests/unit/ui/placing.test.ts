import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Block, GRID_MM, Paper, ReportBody, pageMm } from '$contract/report';
import { around, moved, placeFor, resized, type Rect } from '$ui/report/placing';

// A4 upright with margins of 15 mm.
const PAGE: Rect = { x: 15, y: 15, w: 180, h: 267 };
const rect = fc.record({
  x: fc.double({ min: -20, max: 200, noNaN: true }),
  y: fc.double({ min: -20, max: 280, noNaN: true }),
  w: fc.double({ min: 5, max: 180, noNaN: true }),
  h: fc.double({ min: 2, max: 200, noNaN: true }),
});
const tenths = (v: number) => Math.abs(v * 10 - Math.round(v * 10)) < 1e-6;

describe('a block that is dragged', () => {
  test('lies on the grid that begins at the margin where nothing is near', () => {
    const to = moved({ x: 57.2, y: 103.4, w: 31, h: 13 }, [], PAGE);
    expect([(to.x - 15) % GRID_MM, (to.y - 15) % GRID_MM]).toEqual([0, 0]);
    expect(to.guides).toEqual([]);
  });
  test('aligns to an edge or the middle of a neighbour that is near, and shows the line', () => {
    const other = { x: 33.3, y: 61.7, w: 40, h: 20 };
    expect(moved({ x: 34.1, y: 120, w: 50, h: 10 }, [other], PAGE)).toMatchObject({ x: 33.3, guides: [{ x: 33.3 }] }); // prettier-ignore
    // Middle to middle.
    expect(moved({ x: 100, y: 66, w: 50, h: 12 }, [other], PAGE)).toMatchObject({
      y: 65.7,
      guides: [{ y: 71.7 }],
    });
  });
  test('is in the middle of the page when it comes near it', () => {
    expect(moved({ x: 89.4, y: 40, w: 30, h: 10 }, [], PAGE)).toMatchObject({ x: 90, guides: [{ x: 105 }] });
  });
  test('never goes further than half a grid, stands on a tenth of a millimetre, and stays where it was put when it is dragged by nothing', () => {
    fc.assert(
      fc.property(rect, fc.array(rect, { maxLength: 6 }), (box, others) => {
        const to = moved(box, others, PAGE);
        expect(Math.abs(to.x - box.x)).toBeLessThanOrEqual(GRID_MM / 2 + 0.051);
        expect(Math.abs(to.y - box.y)).toBeLessThanOrEqual(GRID_MM / 2 + 0.051);
        expect(tenths(to.x) && tenths(to.y)).toBe(true);
      }),
    );
  });
});

describe('an edge that is dragged', () => {
  test('moves alone: the opposite edges stay where they are', () => {
    fc.assert(
      fc.property(
        rect,
        fc.boolean(),
        fc.boolean(),
        fc.array(rect, { maxLength: 4 }),
        (box, left, top, others) => {
          const to = resized(box, { left, right: !left, top, bottom: !top }, others, PAGE);
          if (left) expect(to.x + to.w).toBeCloseTo(box.x + box.w, 0);
          else expect(to.x).toBeCloseTo(box.x, 0);
          if (top) expect(to.y + to.h).toBeCloseTo(box.y + box.h, 0);
          else expect(to.y).toBeCloseTo(box.y, 0);
          expect(to.w).toBeGreaterThanOrEqual(5 - 0.06);
          expect(to.h).toBeGreaterThanOrEqual(2 - 0.06);
        },
      ),
    );
  });
  test('comes to lie on a neighbour’s edge: both are as wide then', () => {
    const other = { x: 15, y: 20, w: 87.5, h: 20 };
    expect(resized({ x: 15, y: 50, w: 86.9, h: 20 }, { right: true }, [other], PAGE)).toMatchObject({ w: 87.5, guides: [{ x: 102.5 }] }); // prettier-ignore
  });
});

test('a box around some blocks holds each of them', () => {
  fc.assert(
    fc.property(fc.array(rect, { minLength: 1, maxLength: 8 }), (list) => {
      const box = around(list);
      for (const r of list) {
        expect(r.x).toBeGreaterThanOrEqual(box.x);
        expect(r.x + r.w).toBeLessThanOrEqual(box.x + box.w + 1e-9);
        expect(r.y + r.h).toBeLessThanOrEqual(box.y + box.h + 1e-9);
      }
    }),
  );
});

test('a new block goes under what stands there, within the margins; onto a full page over the top', () => {
  const at = (y: number, h: number): Block => ({
    id: String(y),
    kind: 'words',
    x: 15,
    y,
    w: 180,
    h,
    settings: {},
  });
  expect(placeFor([180, 80], [], PAGE)).toEqual({ x: 15, y: 15, w: 180, h: 80 });
  expect(placeFor([180, 80], [at(15, 41)], PAGE)).toMatchObject({ y: 60, h: 80 });
  expect(placeFor([180, 80], [at(15, 241)], PAGE)).toMatchObject({ y: 260, h: 22 });
  expect(placeFor([180, 80], [at(15, 266)], PAGE)).toMatchObject({ y: 15 });
  expect(placeFor([400, 80], [], PAGE)).toMatchObject({ w: 180 });
});

describe('paper', () => {
  test('sizes are those of the standards; across is the other way round', () => {
    expect(pageMm({ size: 'A4', direction: 'upright' })).toEqual([210, 297]);
    expect(pageMm({ size: 'A3', direction: 'across' })).toEqual([420, 297]);
    expect(pageMm({ size: 'Letter', direction: 'upright' })).toEqual([215.9, 279.4]);
  });
  test('places are kept to a tenth of a millimetre; nonsense is refused', () => {
    const block = { id: 'a', kind: 'words', x: 15.04, y: 20.06, w: 10, h: 5, settings: {} };
    expect(Block.parse(block)).toMatchObject({ x: 15, y: 20.1 });
    for (const bad of [{ x: NaN }, { w: 0 }, { h: -3 }, { x: 1e9 }, { kind: '' }, { more: 1 }])
      expect(Block.safeParse({ ...block, ...bad }).success, JSON.stringify(bad)).toBe(false);
    expect(Paper.safeParse({ size: 'A5', direction: 'upright', marginMm: 15 }).success).toBe(false);
    expect(ReportBody.safeParse({ name: 'x', paper: { size: 'A4', direction: 'upright', marginMm: 15 }, pages: [], filter: null, takes: [], called: {} }).success).toBe(false); // prettier-ignore
  });
});
