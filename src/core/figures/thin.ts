import { heatColumns, heatRows } from './heat';
import { isNamed, placeAt, type Figure, type HeatMark, type Mark, type Places } from './figure';

/** Cells of a heat picture for each value that a curve may have. */
const CELLS = 40;

/** A figure with so few values that it can be sent and drawn, looking the same: of each stretch of a curve its lowest and highest stay, where they are; of
 *  neighbouring cells of a picture the highest. Gaps stay. @param most values of a curve, 4 or more
 *  @returns the figure itself where there is nothing to thin */
export function thinFigure(figure: Figure, most: number): Figure {
  const marks = figure.marks.map((mark) => thinMark(mark, most));
  return marks.some((mark, k) => mark !== figure.marks[k]) ? { ...figure, marks } : figure;
}

function thinMark(mark: Mark, most: number): Mark {
  if (!isNamed(mark)) return mark;
  if (mark.mark === 'heat') return thinHeat(mark, most * CELLS);
  const n = mark.x.length;
  if (n <= most) return mark;
  const kept = mark.mark === 'band' ? keptOf([mark.low, mark.high], n, most) : keptOf([mark.y], n, most);
  const pick = (values: Places | ArrayLike<number>) => Float64Array.from(kept, (i) => placeAt(values, i));
  const x = pick(mark.x);
  if (mark.mark === 'band') return { ...mark, x, low: pick(mark.low), high: pick(mark.high) };
  if (mark.mark === 'points') return { ...mark, x, y: pick(mark.y), ...(mark.reach && { reach: pick(mark.reach) }) }; // prettier-ignore
  return { ...mark, x, y: pick(mark.y) };
}

/** Which values stay: of each of so many stretches the lowest of the first and the highest of the last curve, and one that is missing where all are. */
function keptOf(curves: readonly ArrayLike<number>[], n: number, most: number): number[] {
  const [lows, highs] = [curves[0], curves[curves.length - 1]];
  const stretches = Math.floor(most / 2);
  const kept: number[] = [];
  for (let s = 0; s < stretches; s++) {
    const [from, to] = [Math.floor((s * n) / stretches), Math.floor(((s + 1) * n) / stretches)];
    let [low, high] = [-1, -1];
    for (let i = from; i < to; i++) {
      if (lows[i] === lows[i] && (low < 0 || lows[i] < lows[low])) low = i;
      if (highs[i] === highs[i] && (high < 0 || highs[i] > highs[high])) high = i;
    }
    if (low < 0 || high < 0) kept.push(from);
    else kept.push(...(low === high ? [low] : [Math.min(low, high), Math.max(low, high)]));
  }
  return kept;
}

function thinHeat(mark: HeatMark, most: number): HeatMark {
  const [nx, ny] = [heatColumns(mark), heatRows(mark)];
  if (nx * ny <= most) return mark;
  // Both ways by as much, each as long as it has enough to give.
  const share = Math.sqrt((nx * ny) / most);
  const columns = Math.max(1, Math.min(nx, Math.floor(Math.max(nx / share, most / ny))));
  const rows = Math.max(1, Math.min(ny, Math.floor(most / columns)));
  const z = new Float64Array(columns * rows).fill(NaN);
  for (let k = 0; k < ny; k++) {
    const row = Math.floor((k * rows) / ny) * columns;
    for (let i = 0; i < nx; i++) {
      const at = row + Math.floor((i * columns) / nx);
      const v = mark.z[k * nx + i];
      if (!(z[at] >= v) && v === v) z[at] = v;
    }
  }
  const edges = (of: Places, n: number, to: number) =>
    Float64Array.from({ length: to + 1 }, (_, k) => placeAt(of, Math.ceil((k * n) / to)));
  return { ...mark, x: edges(mark.x, nx, columns), y: edges(mark.y, ny, rows), z };
}
