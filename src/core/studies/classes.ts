import { z } from 'zod';
import { classLabels, classesFor, countOf, type Classes, type ClassWish } from '../counting/classes';
import type { BarMark, Figure, FigureAxis, LineMark } from '../figures/figure';
import type { Sampled } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { readSpan } from './span';
import type { CancelSignal, Progress } from './study';

const ENDS = ['open', 'closed'] as const;

/** The fields of a study that sorts values into classes. */
export const classFields = {
  classes: field(
    z.number().int('Give a whole number.').min(2, 'At least 2 classes.').max(256, 'At most 256 classes.'),
    {
      label: 'Classes',
      editor: 'number',
      unit: 'classes',
      help: 'With round limits at most so many; between limits of your own exactly so many.',
    },
  ),
  width: field(z.number().positive('Give a width above 0.').max(1e12).nullable(), {
    label: 'Class width',
    editor: 'number',
    unitFrom: 'channel',
    none: 'round by itself',
    help: 'A width that is given counts instead of the number of classes.',
  }),
  limits: field(
    z
      .object({ min: z.number().min(-1e12), max: z.number().max(1e12) })
      .refine(({ min, max }) => max > min, 'The upper limit has to be above the lower.')
      .nullable(),
    {
      label: 'Limits',
      editor: 'range',
      unitFrom: 'channel',
      none: 'round limits',
      help: 'Where the first class begins and the last one ends; without, round numbers that hold all values.',
    },
  ),
  ends: field(z.enum(ENDS), {
    label: 'Ends',
    editor: 'choice',
    options: ENDS,
    help: 'Open: what lies beyond the limits counts in the first and the last class. Closed: it is told apart.',
  }),
};
export const CLASS_DEFAULTS = { classes: 24, width: null, limits: null, ends: 'open' as const };

/** As a phrase of a sentence. */
export const classPhrase = ({ width, limits }: Pick<ClassSettings, 'width' | 'limits'>): string =>
  `in ${width === null ? '{classes}, their width {width}' : 'classes of {width}'}, between {limits}${limits ? ', {ends} at both ends' : ''}`;

type ClassSettings = {
  classes: number;
  width: number | null;
  limits: { min: number; max: number } | null;
  ends: 'open' | 'closed';
};
export const wishOf = ({ classes, width, limits, ends }: ClassSettings): ClassWish => ({
  count: classes,
  width,
  limits,
  open: ends === 'open' && limits !== null,
});

/** Lowest and highest of a span; Infinity and −Infinity where nothing was measured. */
export function extremesOf(
  input: Sampled,
  first: number,
  end: number,
  progress: Progress,
  signal: CancelSignal,
): [least: number, most: number] {
  let [least, most] = [Infinity, -Infinity];
  readSpan(
    input,
    first,
    end,
    (block) => {
      for (let i = 0; i < block.length; i++) {
        const v = block[i];
        if (v < least) least = v;
        if (v > most) most = v;
      }
    },
    progress,
    signal,
  );
  return [least, most];
}

/** The classes of a span’s values. */
export function valueClasses(
  input: Sampled,
  { first, end }: { first: number; end: number },
  settings: ClassSettings,
  progress: Progress,
  signal: CancelSignal,
): Classes {
  const [least, most] = settings.limits ? [0, 0] : extremesOf(input, first, end, progress, signal);
  return classesFor(wishOf(settings), least, most);
}

/** More classes than this are drawn over numbers instead of names. */
const NAMED_AT_MOST = 40;

/** Bars over classes, named by them where they can be read. */
export function classBars(
  title: string,
  classes: Classes,
  unit: string,
  across: string,
  y: FigureAxis,
  bars: { name: string; values: ArrayLike<number>; colour?: number },
): Figure {
  const n = countOf(classes);
  const named = n <= NAMED_AT_MOST;
  const mark: BarMark = {
    mark: 'bar',
    name: bars.name,
    unit: y.unit,
    colour: bars.colour,
    x: named
      ? { from: 0, step: 1, length: n }
      : { from: classes.edges[0] + classes.width / 2, step: classes.width, length: n },
    y: Float64Array.from(bars.values),
    width: named ? 0.92 : classes.width,
  };
  return {
    title,
    x: named
      ? {
          label: across,
          unit: '1',
          scale: 'classes',
          classes: classLabels(classes, unit),
          middles: { from: classes.edges[0] + classes.width / 2, step: classes.width, unit },
        }
      : { label: across, unit, scale: 'linear' },
    y,
    marks: [mark],
  };
}

/** A step curve over the edges of classes. */
export function classSteps(
  title: string,
  classes: Classes,
  unit: string,
  across: string,
  y: FigureAxis,
  step: Pick<LineMark, 'name' | 'colour' | 'y'>,
): Figure {
  return {
    title,
    x: { label: across, unit, scale: 'linear' },
    y,
    marks: [{ mark: 'step', unit: y.unit, ...step, x: classes.edges }],
  };
}

export const numeric = (label: string, unit?: string) => ({ label, unit, numeric: true });
export const words = (label: string) => ({ label, numeric: false });
