import { GRID_MM, type Block } from '$contract/report';

export interface Rect {
  x: number;
  y: number;
  w: number;
  h: number;
}
/** A line that something was aligned to, mm: upright at x, or across at y. */
export type Guide = { x: number } | { y: number };
/** Which sides of a block are moved. */
export interface Edges {
  left?: boolean;
  right?: boolean;
  top?: boolean;
  bottom?: boolean;
}

/** How near to a line something has to come, mm. */
const NEAR = 1.6;
const LEAST = { w: 5, h: 2 };
const tenth = (v: number) => Math.round(v * 10) / 10;

/** Lines that neighbours and the page give: their edges and middles, the margins and the middle of the page. */
function linesOf(others: readonly Rect[], page: Rect): { x: number[]; y: number[] } {
  const both = (from: number, length: number) => [from, from + length / 2, from + length];
  return {
    x: [...both(page.x, page.w), ...others.flatMap((o) => both(o.x, o.w))],
    y: [...both(page.y, page.h), ...others.flatMap((o) => both(o.y, o.h))],
  };
}

/** By how much a value is shifted to lie on a line that is near, a neighbour’s before one of the grid; and that line. */
function toLine(
  values: readonly number[],
  lines: readonly number[],
  grid: number,
): [shift: number, line: number | null] {
  let best: [number, number | null] = [Infinity, null];
  for (const value of values)
    for (const line of lines)
      if (Math.abs(line - value) <= NEAR && Math.abs(line - value) < Math.abs(best[0]) - 1e-9)
        best = [line - value, line];
  if (best[1] !== null) return best;
  const [first] = values;
  const onGrid = grid + Math.round((first - grid) / GRID_MM) * GRID_MM;
  return [onGrid - first, null];
}

/** Where blocks come to lie that are dragged: aligned to neighbours and the page, else to the grid that begins at the margins.
 *  @param box around all that are dragged @param page within its margins */
export function moved(
  box: Rect,
  others: readonly Rect[],
  page: Rect,
): { x: number; y: number; guides: Guide[] } {
  const lines = linesOf(others, page);
  const [dx, atX] = toLine([box.x, box.x + box.w, box.x + box.w / 2], lines.x, page.x);
  const [dy, atY] = toLine([box.y, box.y + box.h, box.y + box.h / 2], lines.y, page.y);
  return {
    x: tenth(box.x + dx),
    y: tenth(box.y + dy),
    guides: [...(atX === null ? [] : [{ x: atX }]), ...(atY === null ? [] : [{ y: atY }])],
  };
}

/** A block whose edges are dragged, aligned in the same way; it keeps a least size. */
export function resized(
  box: Rect,
  edges: Edges,
  others: readonly Rect[],
  page: Rect,
): Rect & { guides: Guide[] } {
  const lines = linesOf(others, page);
  const guides: Guide[] = [];
  let { x, y, w, h } = box;
  const [right, bottom] = [x + w, y + h];
  const snap = (value: number, of: number[], grid: number, guide: (at: number) => Guide) => {
    const [shift, line] = toLine([value], of, grid);
    if (line !== null) guides.push(guide(line));
    return value + shift;
  };
  if (edges.left) {
    x = Math.min(
      snap(x, lines.x, page.x, (at) => ({ x: at })),
      right - LEAST.w,
    );
    w = right - x;
  } else if (edges.right) w = Math.max(LEAST.w, snap(right, lines.x, page.x, (at) => ({ x: at })) - x);
  if (edges.top) {
    y = Math.min(
      snap(y, lines.y, page.y, (at) => ({ y: at })),
      bottom - LEAST.h,
    );
    h = bottom - y;
  } else if (edges.bottom) h = Math.max(LEAST.h, snap(bottom, lines.y, page.y, (at) => ({ y: at })) - y);
  return { x: tenth(x), y: tenth(y), w: tenth(w), h: tenth(h), guides };
}

/** The box around some blocks. */
export function around(blocks: readonly Rect[]): Rect {
  const x = Math.min(...blocks.map((b) => b.x));
  const y = Math.min(...blocks.map((b) => b.y));
  return {
    x,
    y,
    w: Math.max(...blocks.map((b) => b.x + b.w)) - x,
    h: Math.max(...blocks.map((b) => b.y + b.h)) - y,
  };
}

/** A place for a new block: under what stands there, as wide as the page allows; over the top where it is full. */
export function placeFor([w, h]: readonly [number, number], blocks: readonly Block[], page: Rect): Rect {
  const width = Math.min(w, page.w);
  const bottom = blocks.reduce((most, b) => Math.max(most, b.y + b.h), page.y);
  const y = bottom === page.y ? page.y : page.y + Math.ceil((bottom + 1 - page.y) / GRID_MM) * GRID_MM;
  const fits = y + Math.min(h, 10) <= page.y + page.h;
  return { x: page.x, y: fits ? y : page.y, w: width, h: fits ? Math.min(h, page.y + page.h - y) : h };
}
