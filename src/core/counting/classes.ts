import { badInput } from '../errors';
import { numberText } from '../sentence/sentence';

/** Classes of values: class k holds edge[k] ≤ x < edge[k + 1]. */
export interface Classes {
  /** One more than there are classes, rising by `width`. */
  edges: Float64Array;
  width: number;
  /** Values beyond the ends count in the first and the last class; else they are counted apart. */
  open: boolean;
}

const ROUND = [1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10];
/** The next round number at or above a positive one: 1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6 or 8 times a power of ten. */
export function roundUp(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  const found = ROUND.find((r) => r * power >= least * (1 - 1e-9)) ?? 10;
  return tidy(found * power);
}
const tidy = (x: number) => Number(x.toPrecision(14));
const MOST = 1000;

/** What is wanted of classes: their number at most, or their width; limits, or round ones that hold all values. */
export interface ClassWish {
  /** Two or more: a signal about zero lies in two at least. */
  count: number;
  width: number | null;
  limits: { min: number; max: number } | null;
  open: boolean;
}

/** Classes over what was measured. With limits there are as many as wanted, exactly between them; without, their width is round and their edges are multiples
 *  of it. @param least @param most extremes of the values
 *  @throws `bad_input` for limits in the wrong order, widths that make too many classes, nothing measured */
export function classesFor(wish: ClassWish, least: number, most: number): Classes {
  const { count, limits, open } = wish;
  if (limits && !(limits.max > limits.min))
    throw badInput('limits', `${limits.min} to ${limits.max}`, 'The upper limit has to be above the lower.');
  if (!limits && !(least <= most))
    throw badInput('span', 'no value that is measured', 'Choose a span that holds readings.');
  const [low, high] = limits ? [limits.min, limits.max] : [least, most];
  if (limits && wish.width === null) return between(low, (high - low) / count, count, open);
  // A value that lies on the last edge belongs to a class of its own above it.
  const span = Math.max(high - low, Math.abs(high) * 1e-6, 1e-9);
  let width = wish.width ?? roundUp(span / count);
  const number = (w: number) =>
    limits ? Math.ceil(tidy((high - low) / w)) : edgeUpTo(high, w) - edgeUpTo(low, w) + 1;
  while (wish.width === null && number(width) > count) width = roundUp(width * 1.0001);
  const from = limits ? low : edgeUpTo(low, width) * width;
  if (!(number(width) <= MOST))
    throw badInput(
      'class width',
      width,
      `It makes ${number(width)} classes: choose ${roundUp(span / MOST)} or more.`,
    );
  return between(from, width, Math.max(1, number(width)), open);
}
/** The last multiple of a width at or below a value. */
function edgeUpTo(x: number, width: number): number {
  const k = Math.floor(x / width);
  if (tidy(k * width) > x) return k - 1;
  return tidy((k + 1) * width) <= x ? k + 1 : k;
}
function between(from: number, width: number, count: number, open: boolean): Classes {
  return { edges: Float64Array.from({ length: count + 1 }, (_, k) => tidy(from + k * width)), width, open };
}

export const countOf = ({ edges }: Classes): number => edges.length - 1;

/** The class of a value; −1 below the first and as many as there are classes above the last, where ends are closed. NaN gives NaN. */
export function classOf({ edges, width, open }: Classes, x: number): number {
  const last = edges.length - 1;
  let k = Math.floor((x - edges[0]) / width);
  if (Number.isNaN(k)) return NaN;
  if (k < 0) return open ? 0 : -1;
  if (k > last) k = last;
  // The quotient may miss an edge by its last digit.
  if (k > 0 && x < edges[k]) k--;
  else if (k < last && x >= edges[k + 1]) k++;
  return k < last || !open ? k : last - 1;
}

/** Edges as they are written: no more digits than tell them apart. */
function edgeText(edge: number, width: number): string {
  const decimals = Math.min(12, Math.max(0, 2 - Math.floor(Math.log10(width))));
  return numberText(Number(edge.toFixed(decimals)));
}

/** What the classes are called: “120 to 240 µε”; open ones “up to 120 µε” and “over 900 µε”. @param unit '' for none */
export function classLabels({ edges, width, open }: Classes, unit: string): string[] {
  const text = (k: number) => edgeText(edges[k], width);
  const last = edges.length - 2;
  const of = unit && unit !== '1' ? ` ${unit}` : '';
  return Array.from({ length: last + 1 }, (_, k) => {
    if (open && last > 0 && k === 0) return `up to ${text(1)}${of}`;
    if (open && last > 0 && k === last) return `over ${text(last)}${of}`;
    return `${text(k)} to ${text(k + 1)}${of}`;
  });
}
