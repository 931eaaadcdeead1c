import { z } from 'zod';
import { classLabels, classOf, classesFor, countOf } from '../../counting/classes';
import { Matrix } from '../../counting/levels';
import type { Figure } from '../../figures/figure';
import { clockText } from '../../readings';
import { sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import {
  CLASS_DEFAULTS,
  classBars,
  classFields,
  classPhrase,
  extremesOf,
  numeric,
  words,
  wishOf,
} from '../classes';
import { heat } from '../counting/counting';
import { spanFields, spanOf } from '../span';
import type { StudyKind, StudyResult } from '../study';
import { countCycles, cycleFields } from './cycles';

const PICTURES = ['range and mean', 'from and to'] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  ...cycleFields,
  ...classFields,
  picture: field(z.enum(PICTURES), {
    label: 'Picture',
    editor: 'choice',
    options: PICTURES,
    help: 'From and to keeps the direction of each cycle: which loads came one after the other.',
  }),
});

/** Above so many in a class the bars stand over a logarithmic axis: rare large cycles are seen beside common small ones. */
const LOGARITHMIC_FROM = 200;

/** Cycles by rainflow counting of one channel (ASTM E1049-85 (2017), 5.4). */
export const rainflow: StudyKind<typeof schema> = {
  kind: 'rainflow',
  title: 'Rainflow',
  purpose: 'Cycles by range and mean.',
  method: [
    {
      says: 'Four turning points of which the inner range is not larger than its neighbours make a cycle of that range and mean; what is left (the residue) is left out, counted as halves, or closed by repeating.',
      source: 'ASTM E1049-85 (2017), 5.4.4 and 5.4.5',
    },
  ],
  asks: 'How long, how often at which level?',
  sketch: {
    heat: [
      [0.1, 0.3, 0.2, 0.1, 0, 0, 0],
      [0.3, 0.6, 0.5, 0.3, 0.1, 0, 0],
      [0.4, 0.8, 1, 0.6, 0.3, 0.1, 0],
      [0.3, 0.6, 0.8, 0.7, 0.3, 0.2, 0.1],
      [0.2, 0.3, 0.4, 0.2, 0.1, 0.1, 0],
    ],
  },
  sentence: {
    schema,
    template: (s) =>
      `Count {channel} from {from} to {to} by rainflow, dropping ranges up to {hysteresis}, the residue {residue}, ${classPhrase(s)}; drawn by {picture}.`,
  },
  defaults: { channel: '', from: 0, to: null, hysteresis: null, residue: 'counted as halves', ...CLASS_DEFAULTS, picture: 'range and mean' }, // prettier-ignore
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const span = spanOf(input, settings);
    const [least, most] = extremesOf(input, span.first, span.end, (s) => progress(s / 3), signal);
    const values = classesFor({ ...wishOf(settings), width: null, limits: null, open: false }, least, most);
    const ranges = classesFor(wishOf(settings), 0, most - least);
    const fromTo = settings.picture === 'from and to';
    const matrix = fromTo ? new Matrix(values, values) : new Matrix(ranges, values);
    const counts = new Float64Array(countOf(ranges));
    const largest = { range: 0, mean: 0, atS: 0 };
    let [total, beyond] = [0, 0];
    const hysteresis = settings.hysteresis ?? ranges.width;
    const { missing, turningPoints } = countCycles(
      input,
      span,
      { hysteresis, residue: settings.residue },
      (from, to, fromAt, toAt, count) => {
        const range = Math.abs(to - from);
        total += count;
        const k = classOf(ranges, range);
        if (k >= 0 && k < counts.length) counts[k] += count;
        else beyond += count;
        if (fromTo) matrix.add(to, from, count);
        else matrix.add(range, (from + to) / 2, count);
        if (range > largest.range) {
          largest.range = range;
          largest.mean = (from + to) / 2;
          largest.atS = sampleS(input, Math.max(fromAt, toAt));
        }
      },
      (s) => progress((1 + 2 * s) / 3),
      signal,
    );
    const labels = classLabels(ranges, input.unit);
    const logarithmic = Math.max(...counts) >= LOGARITHMIC_FROM;
    const bars = classBars(
      'Cycles by range',
      ranges,
      input.unit,
      'Range',
      {
        label: 'Cycles',
        unit: '1',
        scale: logarithmic ? 'logarithmic' : 'linear',
        min: logarithmic ? 0.5 : 0,
      },
      { name: input.name, values: counts, colour: input.colour },
    );
    const over = counts.slice();
    for (let k = over.length - 2; k >= 0; k--) over[k] += over[k + 1];
    const picture: Figure = fromTo
      ? heat('From and to', 'To', 'From', matrix, values.edges, values.edges, input.unit)
      : heat('Range and mean', 'Range', 'Mean', matrix, ranges.edges, values.edges, input.unit);
    return {
      findings: [
        { label: 'Cycles counted', value: total, unit: '1', note: `of ${turningPoints} turning points` },
        {
          label: 'Largest range',
          value: largest.range,
          unit: input.unit,
          note: `about ${Number(largest.mean.toPrecision(4))} ${input.unit}, closed at ${clockText(largest.atS)}`,
        },
        { label: 'Ranges dropped up to', value: hysteresis, unit: input.unit },
        ...(beyond > 0
          ? [{ label: 'Beyond the limits', value: beyond, unit: '1', note: 'in no class' }]
          : []),
        ...(missing > 0
          ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples that were passed over' }]
          : []),
      ],
      figures: [bars, picture],
      tables: [
        {
          title: 'Cycles by range',
          columns: [
            words('Class'),
            numeric('From', input.unit),
            numeric('To', input.unit),
            numeric('Cycles'),
            numeric('This or larger'),
          ],
          rows: labels.map((name, k) => [name, ranges.edges[k], ranges.edges[k + 1], counts[k], over[k]]),
        },
      ],
    };
  },
};
