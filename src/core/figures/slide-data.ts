import { rises } from './layout';
import { placeAt, type Figure, type NamedMark } from './figure';

/** Numbers of a mark, not more than are wanted: of what is longer the middle of each stretch between its extremes. Missing ones are null.
 *  @param most points */
export function placesOf(mark: NamedMark, most: number): { x: number[]; y: (number | null)[] } {
  const length = lengthOf(mark);
  const stretch = Math.max(1, Math.ceil(length / most));
  const x: number[] = [];
  const y: (number | null)[] = [];
  // Pairs that run to and fro: some of them as they are.
  if ((mark.mark === 'line' || mark.mark === 'points') && !rises(mark.x)) {
    for (let i = 0; i < length; i += stretch)
      if (Number.isFinite(placeAt(mark.x, i))) {
        x.push(placeAt(mark.x, i));
        y.push(Number.isFinite(mark.y[i]) ? mark.y[i] : null);
      }
    return { x, y };
  }
  for (let at = 0; at < length; at += stretch) {
    let low = Infinity;
    let high = -Infinity;
    const end = Math.min(length, at + stretch);
    for (let i = at; i < end; i++) {
      const [a, b] = endsAt(mark, i);
      if (a < low) low = a;
      if (b > high) high = b;
    }
    x.push((placeAt(mark.x, at) + placeAt(mark.x, end - 1)) / 2);
    y.push(high >= low ? (low + high) / 2 : null);
  }
  return { x, y };
}
const lengthOf = (mark: NamedMark): number => ('low' in mark && mark.mark === 'band' ? mark.low.length : 'y' in mark && mark.mark !== 'heat' ? mark.y.length : 0); // prettier-ignore
function endsAt(mark: NamedMark, i: number): [number, number] {
  if (mark.mark === 'band') return [mark.low[i], mark.high[i]];
  const value = mark.mark === 'heat' ? NaN : (mark as { y: ArrayLike<number> }).y[i];
  return [value, value];
}

/** What a place along the horizontal axis is called: a class by its name. */
export const classLabel = ({ x }: Figure, at: number): string =>
  x.scale === 'classes' ? (x.classes?.[Math.round(at)] ?? String(at)) : String(Number(at.toPrecision(6)));

/** Ends of an axis of a slide: round numbers, at or just beyond those of the figure, which are written there as they are. */
export function roundEnds([low, high]: readonly [number, number]): [number, number] {
  const step = 10 ** Math.floor(Math.log10(high - low) - 1);
  const round = (of: number) => Number((of * step).toPrecision(12));
  return Number.isFinite(step) && step > 0 ? [round(Math.floor(low / step + 1e-9)), round(Math.ceil(high / step - 1e-9))] : [low, high]; // prettier-ignore
}
