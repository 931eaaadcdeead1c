import { z } from 'zod';
import { classLabels, classOf, classesFor, countOf } from '../../counting/classes';
import { LevelCrossings, Matrix } from '../../counting/levels';
import type { CycleSink } from '../../counting/rainflow';
import { RangePairs, SimpleRanges } from '../../counting/ranges';
import { TurningPoints } from '../../counting/turning';
import type { Figure } from '../../figures/figure';
import { field } from '../../sentence/sentence';
import { CLASS_DEFAULTS, classBars, classFields, classPhrase, classSteps, extremesOf, numeric, words, wishOf } from '../classes'; // prettier-ignore
import { readSpan, spanFields, spanOf } from '../span';
import type { ResultTable, StudyKind, StudyResult } from '../study';

const METHODS = [
  'level crossings',
  'peaks and valleys',
  'ranges',
  'range pairs',
  'range pairs with their mean',
  'turning points from and to',
] as const;

const schema = z.strictObject({
  method: field(z.enum(METHODS), {
    label: 'What is counted',
    editor: 'choice',
    options: METHODS,
    help: 'Methods of DIN 45667 and ASTM E1049-85. Range pairs keep large cycles that small ones interrupt; simple ranges do not.',
  }),
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  hysteresis: field(z.number().min(0, 'At least 0.').max(1e12), {
    label: 'Hysteresis',
    editor: 'number',
    unitFrom: 'channel',
    help: 'The signal has to turn back by more than this to have turned: noise is not counted.',
  }),
  reference: field(z.number().min(-1e12).max(1e12).nullable(), {
    label: 'Reference',
    editor: 'number',
    unitFrom: 'channel',
    none: 'the mean',
    help: 'Levels at or above it count when they are passed upwards, those below it when they are passed downwards; peaks count above it, valleys below.',
  }),
  ...classFields,
});

/** Crossings, peaks and ranges of one channel (DIN 45667; ASTM E1049-85 (2017), 5.1 to 5.3). Missing samples are passed over. */
export const counting: StudyKind<typeof schema> = {
  kind: 'counting',
  title: 'Crossings and ranges',
  purpose: 'Levels passed, peaks, range pairs, from and to.',
  method: [
    {
      says: 'Turning points after the dead band; then crossings of class limits, peaks and valleys, ranges, range pairs, or transitions from class to class.',
      source: 'DIN 45667; ASTM E1049-85 (2017), 5.1 to 5.3',
    },
  ],
  asks: 'How long, how often at which level?',
  sketch: { lines: [[0.5, 0.9, 1, 0.7, 0.3, 0.1, 0.25, 0.6, 0.85, 0.8, 0.5, 0.2, 0.1, 0.3]] },
  sentence: {
    schema,
    template: (s) =>
      `Count {method} of {channel} from {from} to {to}, turning by more than {hysteresis}${
        s.method === 'level crossings' || s.method === 'peaks and valleys' ? ', about {reference}' : ''
      }, ${classPhrase(s)}.`,
  },
  defaults: { method: 'level crossings', channel: '', from: 0, to: null, hysteresis: 0, reference: null, ...CLASS_DEFAULTS }, // prettier-ignore
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const half = (from: number) => (share: number) => progress(from + share / 2);
    let [sum, n] = [0, 0];
    const [least, most] = extremesOf(input, first, end, half(0), signal);
    const values = classesFor(wishOf(settings), least, most);
    const ranged = ['ranges', 'range pairs', 'range pairs with their mean'].includes(settings.method);
    // Ranges have classes of their own, from 0 on; limits of the sentence are those of what is counted.
    const classes = ranged ? classesFor(wishOf(settings), 0, most - least) : values;
    const counts = new Float64Array(countOf(classes));
    let [below, above] = [0, 0];
    const put = (into: Float64Array, x: number, count: number) => {
      const k = classOf(classes, x);
      if (k < 0) below += count;
      else if (k >= into.length) above += count;
      else into[k] += count;
    };
    const valleys = new Float64Array(countOf(classes));
    const crossings = new LevelCrossings(values.edges);
    const withMean = settings.method === 'range pairs with their mean';
    const means = classesFor({ ...wishOf(settings), width: null, limits: null, open: false }, least, most);
    const matrix = withMean
      ? new Matrix(classes, means)
      : settings.method === 'turning points from and to'
        ? new Matrix(values, values)
        : null;
    let largest = 0;
    const cycle: CycleSink = (from, to, _a, _b, count) => {
      const range = Math.abs(to - from);
      if (range > largest) largest = range;
      put(counts, range, count);
      if (withMean) matrix!.add(range, (from + to) / 2, count);
    };
    const method =
      settings.method === 'ranges' ? new SimpleRanges(cycle) : ranged ? new RangePairs(cycle) : null;
    const turned: number[] = [];
    let points = 0;
    let last = NaN;
    const turning = new TurningPoints(settings.hysteresis, (some, indices, count) => {
      points += count;
      method?.feed(some, indices, count);
      if (method) return;
      for (let k = 0; k < count; k++) {
        const value = some[k];
        if (settings.method === 'level crossings') crossings.push(value);
        else if (settings.method === 'peaks and valleys') turned.push(value);
        else if (!Number.isNaN(last)) {
          matrix!.add(value, last);
          put(counts, value, 1);
        }
        last = value;
      }
    });
    let at = first;
    readSpan(
      input,
      first,
      end,
      (block) => {
        turning.push(block, at);
        at += block.length;
        for (let i = 0; i < block.length; i++)
          if (!Number.isNaN(block[i])) {
            sum += block[i];
            n++;
          }
      },
      half(0.5),
      signal,
    );
    turning.end();
    method?.end();
    const reference = settings.reference ?? sum / n;
    const missing = end - first - n;
    // Both ends of a history turn nowhere: they are neither.
    for (let k = 1; k < turned.length - 1; k++) {
      const v = turned[k];
      if (v > turned[k - 1] && v >= reference) put(counts, v, 1);
      if (v < turned[k - 1] && v < reference) put(valleys, v, 1);
    }

    const y = { label: 'Counts', unit: '1', scale: 'linear', min: 0 } as const;
    const labels = classLabels(classes, input.unit);
    const figures: Figure[] = [];
    const tables: ResultTable[] = [];
    const findings = [
      { label: 'Turning points', value: points, unit: '1', note: undefined as string | undefined },
    ];
    const classRows = (title: string, columns: [string, Float64Array][]) =>
      tables.push({
        title,
        columns: [
          words('Class'),
          numeric('From', input.unit),
          numeric('To', input.unit),
          ...columns.map(([label]) => numeric(label)),
        ],
        rows: labels.map((name, k) => [
          name,
          classes.edges[k],
          classes.edges[k + 1],
          ...columns.map(([, of]) => of[k]),
        ]),
      });
    if (settings.method === 'level crossings') {
      const counted = crossings.counted(reference);
      figures.push(
        classSteps('Level crossings', values, input.unit, input.name, y, {
          name: input.name,
          colour: input.colour,
          y: counted,
        }),
      );
      tables.push({
        title: 'Levels',
        columns: [numeric('Level', input.unit), numeric('Upwards'), numeric('Downwards'), numeric('Counted')],
        rows: Array.from(values.edges, (level, k) => [level, crossings.up[k], crossings.down[k], counted[k]]),
      });
      const often = counted.reduce((best, c, k) => (c > counted[best] ? k : best), 0);
      findings.push({
        label: 'Passed most often',
        value: values.edges[often],
        unit: input.unit,
        note: `${counted[often]} times`,
      });
      findings.push({
        label: 'Reference',
        value: reference,
        unit: input.unit,
        note: settings.reference === null ? 'the mean' : undefined,
      });
    } else if (matrix && !withMean) {
      figures.push(heat('From and to', 'To', 'From', matrix, values.edges, values.edges, input.unit));
      classRows('Turning points in classes', [['Counts', counts]]);
    } else {
      const peaks = settings.method === 'peaks and valleys';
      figures.push(classBars(peaks ? 'Peaks' : 'By range', classes, input.unit, peaks ? input.name : 'Range', y, { name: peaks ? 'Peaks' : 'Counts', values: counts, colour: input.colour })); // prettier-ignore
      if (peaks) {
        const bars = figures[0].marks[0];
        figures[0] = {
          ...figures[0],
          title: 'Peaks and valleys',
          marks: [
            bars,
            {
              ...bars,
              mark: 'bar',
              name: 'Valleys',
              tone: 'muted',
              colour: undefined,
              y: valleys,
            } as typeof bars,
          ],
        };
      }
      if (withMean)
        figures.push(
          heat('Range and mean', 'Range', 'Mean', matrix!, classes.edges, means.edges, input.unit),
        );
      classRows('Classes', peaks ? [['Peaks', counts], ['Valleys', valleys]] : [['Counts', counts]]); // prettier-ignore
      if (peaks)
        findings.push({
          label: 'Reference',
          value: reference,
          unit: input.unit,
          note: settings.reference === null ? 'the mean' : undefined,
        });
      else findings.push({ label: 'Largest range', value: largest, unit: input.unit, note: undefined });
    }
    if (below + above > 0)
      findings.push({ label: 'Beyond the limits', value: below + above, unit: '1', note: 'in no class' });
    if (missing > 0)
      findings.push({ label: 'Missing', value: missing, unit: '1', note: 'samples that were passed over' });
    return { findings, figures, tables };
  },
};

/** Counts over two kinds of classes as a picture; cells that hold nothing stay empty. */
export function heat(
  title: string,
  across: string,
  up: string,
  { cells }: Matrix,
  x: Float64Array,
  y: Float64Array,
  unit: string,
): Figure {
  return {
    title,
    x: { label: across, unit, scale: 'linear' },
    y: { label: up, unit, scale: 'linear' },
    marks: [{ mark: 'heat', name: 'Counts', unit: '1', x, y, z: cells.map((n) => (n > 0 ? n : NaN)) }],
  };
}
