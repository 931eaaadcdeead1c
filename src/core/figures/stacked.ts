import type { Figure, FigureAxis, LineMark, Places } from './figure';

/** How many distances between two lines the highest value rises. */
const RISE = 4;
/** More lines than this hide each other. */
const MOST = 60;

/** Lines one above the other, each standing where it belongs on the upright axis and rising by its values: the largest of all by four distances.
 *  @param rows in the order of the axis, values along x @param value what rises, said in the title */
export function stackedLines(
  title: string,
  x: { axis: FigureAxis; places: Places },
  y: FigureAxis,
  rows: readonly { at: number; values: ArrayLike<number> }[],
  value: { name: string; unit: string },
): Figure {
  const each = Math.max(1, Math.ceil(rows.length / MOST));
  const shown = rows.filter((_, i) => i % each === 0);
  let most = 0;
  for (const { values } of shown)
    for (let i = 0; i < values.length; i++) if (values[i] > most) most = values[i];
  const [first, last] = [shown[0].at, shown[shown.length - 1].at];
  const distance = shown.length > 1 ? (last - first) / (shown.length - 1) || 1 : 1;
  const scale = most > 0 ? (RISE * distance) / most : 0;
  const tall = Number(most.toPrecision(3));
  return {
    title: `${title}, ${RISE} distances are ${tall}${value.unit === '1' ? '' : ` ${value.unit}`}`,
    x: x.axis,
    y: { ...y, min: first, max: last + RISE * distance },
    marks: shown.map(({ at, values }, k): LineMark => ({
      mark: 'line',
      // One name stands for all: what a cursor reads here is a place, not a value.
      name: k === 0 ? value.name : '',
      colour: 0,
      dashed: false,
      x: x.places,
      y: Float64Array.from(values, (v) => at + v * scale),
    })),
  };
}
