import { layoutFigure, longestTick, type Box, type Layout, type Part } from './layout';
import type { Figure } from './figure';
import { Vectors, type Ink, type Plot } from './vectors';

const LEFT = 52;
const RIGHT = 8;
const ROOM = { x: 62, y: 30 };

/** A figure on paper, as vectors. @param size in points @param plots takes where it was drawn */
export function paintFigure(
  figure: Figure,
  ink: Ink,
  { width, height }: { width: number; height: number },
  part: Part = {},
  plots: Plot[] = [],
): string {
  const paper = new Vectors(ink, plots);
  const within = (left: number): Box => ({
    x: left,
    y: 22,
    width: width - left - RIGHT,
    height: height - 52,
  });
  const left = Math.max(LEFT, longestTick(layoutFigure(figure, within(LEFT), part, ROOM)) * 4.6 + 8);
  const box = within(left);
  const layout = layoutFigure(figure, box, part, ROOM);
  paper.upright(box, layout);
  paper.across(
    box,
    layout,
    figure.marks.every((m) => m.mark !== 'heat'),
  );
  paper.marks(figure, box, layout);
  paper.legend(figure, box.x, 12, width - RIGHT - figure.y.unit.length * 4.9 - 12);
  const unit = (axis: Figure['x']) => (axis.scale === 'decibel' ? 'dB' : axis.unit === '1' ? '' : axis.unit);
  paper.text(width - RIGHT, 12, unit(figure.y), { anchor: 'end' });
  const across = [figure.x.label, unit(figure.x)].filter(Boolean).join(', ');
  paper.text(box.x + box.width, box.y + box.height + 24, across, { anchor: 'end' });
  return paper.svg(width, height);
}

/** Figures over one horizontal axis, stacked. @param moments along it that are marked through all @param spans the same, filled @param each height of one, points */
export function paintStack(
  figures: readonly Figure[],
  ink: Ink,
  { width, each = 78 }: { width: number; each?: number },
  ends: readonly [number, number],
  moments: readonly number[] = [],
  spans: readonly (readonly [number, number])[] = [],
  plots: Plot[] = [],
): string {
  const paper = new Vectors(ink, plots);
  const at = (k: number): Box => ({
    x: LEFT,
    y: k * each + 17,
    width: width - LEFT - RIGHT,
    height: each - 25,
  });
  let last: Layout | null = null;
  figures.forEach((figure, k) => {
    const box = at(k);
    const layout = (last = layoutFigure(figure, box, { x: ends }, { x: 66, y: 20 }));
    paper.legend(figure, LEFT, box.y - 7, width - RIGHT - figure.y.unit.length * 4.9 - 12);
    paper.text(width - RIGHT, box.y - 7, figure.y.unit, { anchor: 'end' });
    for (const [a, b] of spans) {
      const [left, right] = [a, b].map((s) => layout.x.at(Math.min(ends[1], Math.max(ends[0], s))));
      if (right > left) paper.fill(left, box.y, right - left, box.height, ink.tones.muted, 0.16);
    }
    paper.upright(box, layout);
    paper.marks(figure, box, layout);
  });
  const bottom = figures.length * each - 8;
  if (last) {
    const { x } = last as Layout;
    for (const s of moments) if (s >= ends[0] && s <= ends[1]) paper.line(x.at(s), 14, x.at(s), bottom - 4, '#B3A99D', 0.5, '0.8 2.4'); // prettier-ignore
    paper.across({ x: LEFT, y: bottom, width: 0, height: 0 }, last, false);
    paper.text(4, bottom + 11, ends[1] > 120 && figures[0].x.scale === 'time' ? 'min:s' : figures[0].x.unit);
  }
  return paper.svg(width, bottom + 18);
}
