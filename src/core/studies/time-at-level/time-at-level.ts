import { z } from 'zod';
import { classLabels, countOf } from '../../counting/classes';
import { Matrix, TimeAtLevel, atOrAbove } from '../../counting/levels';
import type { Figure } from '../../figures/figure';
import { rateHz, type Sampled } from '../../samples/sampled';
import { heldBeside } from '../../samples/held';
import { field } from '../../sentence/sentence';
import { convertUnit } from '../../quantities/quantities';
import { CLASS_DEFAULTS, classBars, classFields, classPhrase, classSteps, numeric, valueClasses, words } from '../classes'; // prettier-ignore
import { readSpan, spanFields, spanOf } from '../span';
import type { ResultTable, StudyKind, StudyResult } from '../study';

const SHOWN = ['seconds', 'share of the total', 'samples'] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  jointly: field(z.string().nullable(), {
    label: 'Jointly with',
    editor: 'channel',
    none: 'no other channel',
    help: 'A second channel, read at the instants of the first: how long both lie where at once.',
  }),
  ...spanFields,
  ...classFields,
  shown: field(z.enum(SHOWN), {
    label: 'Counted as',
    editor: 'choice',
    options: SHOWN,
    help: 'Each sample stands for the time until the next one.',
  }),
  speed: field(z.string().nullable(), {
    label: 'Weighted by the speed',
    editor: 'channel',
    none: 'time',
    help: 'With a speed channel each sample counts the revolutions that pass until the next one, instead of seconds.',
  }),
});
type Settings = z.infer<typeof schema>;

/** What a second of a sample counts, and what the sum is called. */
function measureOf({ shown, speed }: Settings, rate: number) {
  if (shown === 'samples')
    return { factor: 1, unit: '1', label: speed ? 'Revolutions times rate' : 'Samples' };
  if (shown === 'share of the total') return { factor: null, unit: '%', label: 'Share of the total' };
  return speed
    ? { factor: 1 / rate, unit: 'rev', label: 'Revolutions' }
    : { factor: 1 / rate, unit: 's', label: 'Time' };
}

/** How long one channel, or two jointly, lie in classes of their values (DIN 45667, time at level): each sample stands for the time until the next one.
 *  Missing samples count nowhere and are told. */
export const timeAtLevel: StudyKind<typeof schema> = {
  kind: 'time-at-level',
  title: 'Time at level',
  purpose: 'One channel, or two jointly.',
  method: [
    {
      says: 'Each sample counts one sample’s time in the class it lies in, a ≤ x < b; of turning points by revolutions, as much as the shaft turned meanwhile.',
      source: 'DIN 45667, counting by time',
    },
  ],
  asks: 'How long, how often at which level?',
  sketch: { bars: [0.12, 0.38, 0.72, 1, 0.72, 0.56, 0.34, 0.12] },
  sentence: {
    schema,
    template: (s) =>
      `How long {channel} lies at which level from {from} to {to}, jointly with {jointly}, ${classPhrase(s)}; counted as {shown} over {speed}.`,
  },
  defaults: {
    channel: '',
    jointly: null,
    from: 0,
    to: null,
    ...CLASS_DEFAULTS,
    shown: 'seconds',
    speed: null,
  },
  roles: [
    { key: 'channel', takes: 'one' },
    { key: 'jointly', takes: 'one', optional: true, byHand: true },
    { key: 'speed', takes: 'one', unit: 'rpm', optional: true, byHand: true },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const other = take.signals.jointly?.[0] as Sampled | undefined;
    const speed = take.signals.speed?.[0] as Sampled | undefined;
    const span = spanOf(input, settings);
    const part = (from: number, to: number) => (share: number) => progress(from + share * (to - from));
    const classes = valueClasses(input, span, settings, part(0, 0.3), signal);
    const beside = other && heldBeside(other, input);
    const upward = other && valueClasses(other, spanOf(other, settings), { ...settings, width: null, limits: null }, part(0.3, 0.4), signal); // prettier-ignore
    const speedAt = speed && heldBeside(speed, input);
    const perRpm = speed ? convertUnit(1, speed.unit, 'rpm') / 60 : 0;
    const time = new TimeAtLevel(classes);
    const joint = upward && new Matrix(classes, upward);
    let at = span.first;
    readSpan(
      input,
      span.first,
      span.end,
      (block) => {
        // What is read beside it may use the same buffer.
        const own = beside || speedAt ? block.slice() : block;
        const weights = speedAt?.(at, own.length).map((v) => Math.abs(v) * perRpm);
        time.push(own, weights);
        const values = beside?.(at, own.length);
        if (values)
          for (let i = 0; i < own.length; i++)
            if (!Number.isNaN(own[i]) && !Number.isNaN(values[i]))
              joint!.add(own[i], values[i], weights?.[i] ?? 1);
        at += own.length;
      },
      part(0.4, 1),
      signal,
    );
    const { factor, unit, label } = measureOf(settings, rateHz(input));
    const shown = (n: number) =>
      factor === null ? (time.total > 0 ? (n / time.total) * 100 : 0) : n * factor;
    const above = atOrAbove(time);
    const labels = classLabels(classes, input.unit);
    const y = { label, unit, scale: 'linear', min: 0 } as const;
    const figures: Figure[] = [
      classBars('Time at level', classes, input.unit, input.name, y, {
        name: input.name,
        values: time.inside.map(shown),
        colour: input.colour,
      }),
    ];
    const table: ResultTable = {
      title: 'Classes',
      columns: [
        words('Class'),
        numeric('From', input.unit),
        numeric('To', input.unit),
        numeric(label, unit === '1' ? undefined : unit),
        ...(unit === '%' ? [] : [numeric('Share', '%')]),
        numeric('At or above', '%'),
      ],
      rows: labels.map((name, k) => [
        name,
        classes.edges[k],
        classes.edges[k + 1],
        shown(time.inside[k]),
        ...(unit === '%' ? [] : [time.total > 0 ? (time.inside[k] / time.total) * 100 : 0]),
        above[k] * 100,
      ]),
    };
    const tables = [table];
    if (joint && upward && other) {
      figures.push({
        title: 'Both jointly',
        x: { label: input.name, unit: input.unit, scale: 'linear' },
        y: { label: other.name, unit: other.unit, scale: 'linear' },
        marks: [
          {
            mark: 'heat',
            name: label,
            unit,
            x: classes.edges,
            y: upward.edges,
            z: joint.cells.map((n) => (n > 0 ? shown(n) : NaN)),
          },
        ],
      });
      const { rows } = joint.margins;
      const names = classLabels(upward, other.unit);
      tables.push({
        title: `Classes of ${other.name}`,
        columns: [words('Class'), numeric(label, unit === '1' ? undefined : unit)],
        rows: names.map((name, k) => [name, shown(rows[k])]),
      });
    } else
      figures.push(
        classSteps(
          'At or above a level',
          classes,
          input.unit,
          input.name,
          { label: 'Share of the total', unit: '%', scale: 'linear', min: 0, max: 100 },
          { name: input.name, colour: input.colour, y: above.map((share) => share * 100) },
        ),
      );
    const longest = time.inside.reduce((best, n, k) => (n > time.inside[best] ? k : best), 0);
    const half = halfway(classes.edges, above);
    return {
      findings: [
        { label: 'Longest at', value: shown(time.inside[longest]), unit, note: labels[longest] },
        ...(half === null
          ? []
          : [{ label: 'Half of it above', value: half, unit: input.unit, note: 'linear within its class' }]),
        {
          label: 'Counted',
          value: time.total / rateHz(input),
          unit: speed ? 'rev' : 's',
          note: `${countOf(classes)} classes`,
        },
        ...(time.below + time.above > 0
          ? [{ label: 'Beyond the limits', value: shown(time.below + time.above), unit, note: 'in no class' }]
          : []),
        ...(time.missing > 0
          ? [
              {
                label: 'Missing',
                value: time.missing / rateHz(input),
                unit: 's',
                note: `${time.missing} samples, counted nowhere`,
              },
            ]
          : []),
      ],
      figures,
      tables,
    };
  },
};

/** The level that half of it lies above, linear within its class; null where the half lies beyond the limits. */
function halfway(edges: Float64Array, above: Float64Array): number | null {
  const k = above.findIndex((share) => share < 0.5);
  if (k <= 0) return null;
  const [over, under] = [above[k - 1], above[k]];
  return edges[k - 1] + ((over - 0.5) / (over - under)) * (edges[k] - edges[k - 1]);
}
