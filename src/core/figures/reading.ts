import { cellAt, heatColumns } from './heat';
import { rises } from './layout';
import { isNamed, nearest, placeAt, type Figure, type NamedMark } from './figure';

/** What a cursor reads of one mark. */
export interface CursorReading {
  mark: NamedMark;
  /** Where the value stands; the cursor itself may lie beside it. */
  x: number;
  value: number;
  /** Upper end of a band. */
  to?: number;
}

/** What stands under a cursor: of each mark the value nearest along the horizontal axis, of a heat picture the cell.
 *  @param y of the cursor, for pictures over two axes */
export function readFigure({ marks }: Figure, x: number, y = NaN): CursorReading[] {
  return marks.filter(isNamed).flatMap((mark): CursorReading[] => {
    if (mark.mark === 'heat') {
      const [i, k] = [cellAt(mark.x, x), cellAt(mark.y, y)];
      return i < 0 || k < 0 ? [] : [{ mark, x, value: mark.z[k * heatColumns(mark) + i] }];
    }
    if (!rises(mark.x)) return [];
    // A held value counts from where it was taken until the next.
    let i = nearest(mark.x, x);
    if (i < 0) return [];
    if (mark.mark === 'step' && placeAt(mark.x, i) > x && i > 0) i--;
    const at = placeAt(mark.x, i);
    return mark.mark === 'band'
      ? [{ mark, x: at, value: mark.low[i], to: mark.high[i] }]
      : [{ mark, x: at, value: mark.y[i] }];
  });
}

/** The next place of a figure's first mark to one side of a cursor, for keys. @returns null where there is none */
export function nextPlace({ marks }: Figure, x: number, step: 1 | -1): number | null {
  const first = marks.filter(isNamed).find((m) => m.mark !== 'heat' && rises(m.x) && m.x.length > 0);
  if (!first) return null;
  const i = nearest(first.x, x) + step;
  return i < 0 || i >= first.x.length ? null : placeAt(first.x, i);
}
