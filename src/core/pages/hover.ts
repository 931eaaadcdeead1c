import { isNamed, placeAt, type HeatMark } from '../figures/figure';
import { heatColumns, heatRows } from '../figures/heat';
import { rises } from '../figures/layout';
import { readFigure } from '../figures/reading';
import { axisText } from '../figures/scale';
import { readingText } from '../readings';
import type { PlacedPlot } from './sheet';

/** Places along a figure at which it can be read. */
const COLUMNS = 400;
/** Pairs of a curve that runs to and fro, and cells of a heat picture, that are kept for reading. */
const PAIRS = 1500;
const CELLS = 12_000;

/** What can be read of a figure on a page that stands alone: its box, and what is said at which place, points of the page. */
export type Readable =
  | { kind: 'columns'; box: Box; at: number[]; says: string[][] }
  | { kind: 'pairs'; box: Box; at: [x: number, y: number][]; says: string[] }
  | { kind: 'cells'; box: Box; x: number[]; y: number[]; across: string[]; up: string[]; says: string[] };
type Box = [x: number, y: number, width: number, height: number];

const short = (value: number) => Number(value.toFixed(1));

/** Everything of a figure that can be read, so that no program of its own is needed to do it. @param dx and dy of its sheet on the page */
export function readable(
  { figure, box, layout, x, y, large }: PlacedPlot,
  dx: number,
  dy: number,
): Readable[] {
  const across = (at: number) => short(dx + x + at * large);
  const up = (at: number) => short(dy + y + at * large);
  const own: Box = [across(box.x), up(box.y), short(box.width * large), short(box.height * large)];
  const marks = figure.marks.filter(isNamed);
  const out: Readable[] = [];
  const rising = marks.some((m) => m.mark !== 'heat' && rises(m.x));
  if (rising) {
    const at: number[] = [];
    const says: string[][] = [];
    for (let k = 0; k <= COLUMNS; k++) {
      const place = box.x + (k / COLUMNS) * box.width;
      const value = layout.x.valueAt(place);
      const readings = readFigure(figure, value).map(({ mark, value, to }) => {
        const unit = mark.unit ?? figure.y.unit;
        const number = (v: number) => (figure.y.scale === 'decibel' ? axisText(figure.y, v) : readingText(v, { digits: 5 })); // prettier-ignore
        const text = to === undefined || to === value ? number(value) : `${number(value)} to ${number(to)}`;
        return [mark.name, unit && unit !== '1' && figure.y.scale !== 'decibel' ? `${text} ${unit}` : text].filter(Boolean).join(' '); // prettier-ignore
      });
      at.push(across(place));
      says.push([axisText(figure.x, value, 5), ...readings]);
    }
    out.push({ kind: 'columns', box: own, at, says });
  }
  for (const mark of marks) {
    if (mark.mark === 'heat') out.push(cells(mark, own));
    else if (!rises(mark.x) && mark.mark !== 'band') {
      const step = Math.max(1, Math.ceil(mark.x.length / PAIRS));
      const at: [number, number][] = [];
      const says: string[] = [];
      for (let i = 0; i < mark.x.length; i += step) {
        const [px, py] = [layout.x.at(placeAt(mark.x, i)), layout.y.at(mark.y[i])];
        if (!Number.isFinite(px) || !Number.isFinite(py)) continue;
        at.push([across(px), up(py)]);
        says.push(`${axisText(figure.x, placeAt(mark.x, i), 5)}, ${mark.name} ${axisText(figure.y, mark.y[i], 5)}`); // prettier-ignore
      }
      out.push({ kind: 'pairs', box: own, at, says });
    }
  }
  return out;

  function cells(mark: HeatMark, box: Box): Readable {
    const [nx, ny] = [heatColumns(mark), heatRows(mark)];
    const every = Math.max(1, Math.ceil((nx * ny) / CELLS));
    const xs = Array.from({ length: Math.ceil(nx / every) }, (_, i) => i * every);
    const rows = Array.from({ length: ny }, (_, k) => k);
    const middle = (edges: HeatMark['x'], i: number) => (placeAt(edges, i) + placeAt(edges, i + 1)) / 2;
    return {
      kind: 'cells',
      box,
      x: [...xs, nx].map((i) => across(layout.x.at(placeAt(mark.x, i)))),
      y: [...rows, ny].map((k) => up(layout.y.at(placeAt(mark.y, k)))),
      across: xs.map((i) => axisText(figure.x, middle(mark.x, i), 5)),
      up: rows.map((k) => axisText(figure.y, middle(mark.y, k), 5)),
      says: rows.flatMap((k) => xs.map((i) => { const v = mark.z[k * nx + i]; return Number.isFinite(v) ? `${readingText(v, { digits: 4 })}${mark.unit && mark.unit !== '1' ? ` ${mark.unit}` : ''}` : '–'; })), // prettier-ignore
    };
  }
}
