import { layoutFigure, longestTick, type Box, type Layout } from './layout';
import { isNamed, placeAt, type Figure } from './figure';
import { Vectors, type Ink, type Plot } from './vectors';

/** Where the upright axes of curves stand that share a horizontal one. */
export type AxesSide = 'left' | 'both';

const HEAD = 22;
const FOOT = 18;
const DIGIT = 4.6;
const ROOM = { x: 62, y: 30 };
/** What the words under the horizontal axis need. */
const ACROSS = 11;
/** From the name of one curve to the next where they stand at the lines. */
const APART = 10;

export interface AxesLook {
  side?: AxesSide;
  /** Lines across from the ticks of the first. */
  grid?: boolean;
  /** Along the horizontal axis, each a dotted line through the box. */
  moments?: readonly number[];
  /** The same, each lightly filled. */
  spans?: readonly (readonly [number, number])[];
  /** Words under the horizontal axis. */
  across?: string;
  /** Names stand at the right ends of their curves. */
  atLines?: boolean;
}

/** Figures in one box, each with an upright axis of its own in the colour of its curves, its unit at its head; lines across belong to the first.
 *  @param size in points @param ends of the horizontal axis; its label and scale are the first’s */
export function paintAxes(
  figures: readonly Figure[],
  ink: Ink,
  { width, height }: { width: number; height: number },
  ends: readonly [number, number],
  { side = 'left', grid = true, moments = [], spans = [], across = '', atLines = false }: AxesLook = {},
  plots: Plot[] = [],
): string {
  const paper = new Vectors(ink, plots);
  const upright = { y: HEAD, height: Math.max(20, height - HEAD - FOOT - (across ? ACROSS : 0)) };
  const layoutIn = (box: Box, figure: Figure) => layoutFigure(figure, box, { x: ends }, ROOM);
  const rooms = figures.map((figure) => {
    const first = layoutIn({ x: 0, width: Math.max(60, width / 2), ...upright }, figure);
    return Math.max(longestTick(first), figure.y.unit.length) * DIGIT + 14;
  });
  const right = (k: number) => side === 'both' && k % 2 === 1;
  const sum = (on: (k: number) => boolean) => rooms.reduce((all, room, k) => all + (on(k) ? room : 0), 0);
  const left = sum((k) => !right(k));
  const box: Box = { x: left, width: Math.max(40, width - left - Math.max(8, sum(right))), ...upright };
  let [toLeft, toRight] = [0, box.x + box.width];
  let first: Layout | null = null;
  const placed = figures.map((figure, k) => {
    const layout = layoutIn(box, figure);
    first ??= layout;
    // Those at the left stand in their order, the last beside the curves; those at the right go outwards.
    const at = right(k) ? toRight : (toLeft += rooms[k]);
    if (right(k)) toRight += rooms[k];
    return { figure, layout, at, right: right(k) };
  });
  if (!first) return paper.svg(width, height);
  for (const [a, b] of spans) {
    const [left, right] = [a, b].map((s) => (first as Layout).x.at(Math.min(ends[1], Math.max(ends[0], s))));
    if (right > left) paper.fill(left, box.y, right - left, box.height, ink.tones.muted, 0.16);
  }
  if (grid) for (const tick of (first as Layout).y.ticks) paper.line(box.x, tick.at, box.x + box.width, tick.at); // prettier-ignore
  for (const s of moments)
    if (s >= ends[0] && s <= ends[1]) {
      const at = (first as Layout).x.at(s);
      paper.line(at, box.y, at, box.y + box.height, ink.tones.muted, 0.5, '0.8 2.4');
    }
  paper.across({ ...box }, first, false);
  placed.forEach(({ figure, layout, at, right }, k) => {
    const colour = paper.colourOf((figure.marks[0] ?? {}) as { colour?: number }, k);
    paper.axis(layout, at, box, colour, right);
    paper.text(right ? at : at + 2, HEAD - 9, figure.y.unit === '1' ? '' : figure.y.unit, { anchor: right ? 'start' : 'end', colour, bold: true, size: 8 }); // prettier-ignore
  });
  for (const { figure, layout } of placed) paper.marks(figure, box, layout);
  if (across) paper.text(box.x + box.width, box.y + box.height + 22, across, { anchor: 'end' });
  if (atLines) {
    const ended = placed.map(({ figure, layout }, k) => ({ name: figure.title, at: endOf(figure, layout, ends[1]), colour: paper.colourOf((figure.marks[0] ?? {}) as { colour?: number }, k) })); // prettier-ignore
    let last = -Infinity;
    for (const { name, at, colour } of ended
      .filter((e) => Number.isFinite(e.at))
      .sort((a, b) => a.at - b.at)) {
      last = Math.max(at - 3, last + APART, box.y + 7);
      paper.text(box.x + box.width - 2, last, name, { anchor: 'end', colour, bold: true, size: 8 });
    }
  }
  return paper.svg(width, height);
}

/** How high a figure’s first curve ends within the box; NaN where it has no value. */
function endOf({ marks: [mark] }: Figure, { x, y }: Layout, end: number): number {
  if (!mark || !isNamed(mark) || mark.mark === 'heat') return NaN;
  const values = mark.mark === 'band' ? mark.high : mark.y;
  for (let i = values.length - 1; i >= 0; i--)
    if (Number.isFinite(values[i]) && placeAt(mark.x, i) <= end && Number.isFinite(x.at(placeAt(mark.x, i))))
      return y.at(Math.min(y.high, Math.max(y.low, values[i])));
  return NaN;
}
