import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Moments } from '../../statistics/moments';
import { studentFactor } from '../../statistics/student-t';
import { numeric } from '../classes';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, StudyKind, StudyResult } from '../study';

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  block: field(z.number().positive('Give a length above 0 s.').max(1e7), {
    label: 'Block',
    editor: 'number',
    unit: 's',
    help: 'What is left at the end, shorter than a block, is left out.',
  }),
  step: field(z.number().positive('Give a length above 0 s.').max(1e7).nullable(), {
    label: 'From block to block',
    editor: 'number',
    unit: 's',
    none: 'one after the other',
    help: 'Shorter than a block, the statistics run: each block repeats a part of the one before.',
  }),
});

const MOST = 20_000;

/** Statistics of one channel over time, block by block or running, and how sure the mean is by their scatter (batch means; Law and Kelton, Simulation Modeling and
 *  Analysis, ch. 9): neighbouring samples are not independent, the means of long blocks nearly are. */
export const blocks: StudyKind<typeof schema> = {
  kind: 'blocks',
  title: 'Statistics by blocks',
  purpose: 'Mean, rms and extremes over time; how sure the mean is.',
  asks: 'How large is it?',
  sketch: {
    behind: [0.4, 0.7, 0.3, 0.6, 0.8, 0.35, 0.55, 0.25, 0.7, 0.45, 0.9, 0.5, 0.8, 0.6],
    lines: [[0.5, 0.52, 0.48, 0.6, 0.7]],
    points: [[0.1, 0.5], [0.3, 0.52], [0.5, 0.48], [0.7, 0.6], [0.9, 0.7]], // prettier-ignore
  },
  sentence: {
    schema,
    template: () => 'Statistics of {channel} from {from} to {to} by blocks of {block}, {step}.',
  },
  defaults: { channel: '', from: 0, to: null, block: 1, step: null },
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    const n = Math.round(settings.block * rate);
    const step = Math.round((settings.step ?? settings.block) * rate);
    if (n < 1 || step < 1)
      throw badInput(
        'block',
        `${settings.block} s`,
        `It holds no sample: at ${rate} S/s choose ${2 / rate} s or more.`,
      );
    const count = Math.floor((end - first - n) / step) + 1;
    if (count < 1)
      throw badInput(
        'block',
        `${settings.block} s`,
        `The span is ${(end - first) / rate} s long: choose shorter blocks.`,
      );
    if (count > MOST)
      throw badInput(
        'block',
        `${count} blocks`,
        `At most ${MOST} are told apart: choose longer blocks or a larger step.`,
      );
    const all = Array.from({ length: count }, (_, k) => {
      const m = new Moments();
      readSpan(input, first + k * step, first + k * step + n, (b) => m.push(b), () => undefined, signal); // prettier-ignore
      progress((k + 1) / count);
      return { atS: sampleS(input, first + k * step + n / 2), m };
    });
    const whole = new Moments();
    if (settings.step === null || step >= n) for (const { m } of all) if (m.count) whole.push([m.mean]);
    const known = all.filter(({ m }) => m.count > 0);
    if (known.length === 0)
      throw badInput('span', 'no value that is measured', 'Choose a span that holds readings.');
    const mean =
      known.reduce((sum, { m }) => sum + m.mean * m.count, 0) /
      known.reduce((sum, { m }) => sum + m.count, 0);
    const x = Float64Array.from(all, (b) => b.atS);
    const of = (value: (m: Moments) => number) =>
      Float64Array.from(all, ({ m }) => (m.count ? value(m) : NaN));
    const calibration = input.uncertainty?.(first, end - first) ?? null;
    const findings: Finding[] = [
      {
        label: 'Mean',
        value: mean,
        unit: input.unit,
        note: calibration === null ? undefined : `± ${calibration.toPrecision(2)} by the calibration`,
      },
      ...(whole.count > 1
        ? [
            {
              label: 'Sure by statistics to',
              value:
                (studentFactor(0.95, whole.count - 1) * whole.standardDeviation) / Math.sqrt(whole.count),
              unit: input.unit,
              note: `95 %, by the scatter of ${whole.count} block means`,
            },
          ]
        : []),
      { label: 'Highest rms', value: Math.max(...known.map(({ m }) => m.rms)), unit: input.unit },
      ...(known.length < all.length
        ? [{ label: 'Blocks without readings', value: all.length - known.length, unit: '1' }]
        : []),
    ];
    const gaps = all.reduce((sum, { m }) => sum + m.missing, 0);
    if (gaps)
      findings.push({ label: 'Missing', value: gaps, unit: '1', note: 'samples; they count nowhere' });
    return {
      findings,
      figures: [
        {
          title: 'Over time',
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: { label: input.name, unit: input.unit, scale: 'linear' },
          marks: [
            {
              mark: 'band',
              name: 'Lowest to highest',
              unit: input.unit,
              tone: 'muted',
              x,
              low: of((m) => m.min),
              high: of((m) => m.max),
            },
            {
              mark: 'line',
              name: 'Mean',
              unit: input.unit,
              colour: input.colour,
              x,
              y: of((m) => m.mean),
              weight: 'bold',
            },
            {
              mark: 'line',
              name: 'Rms',
              unit: input.unit,
              colour: (input.colour ?? 0) + 1,
              x,
              y: of((m) => m.rms),
            },
          ],
        },
      ],
      tables: [
        {
          title: 'Blocks',
          columns: [
            numeric('Middle', 's'),
            numeric('Mean', input.unit),
            numeric('Rms', input.unit),
            numeric('Std. deviation', input.unit),
            numeric('Lowest', input.unit),
            numeric('Highest', input.unit),
            numeric('Missing'),
          ],
          rows: all.map(({ atS, m }) => [
            atS,
            ...[m.mean, m.rms, m.standardDeviation, m.min, m.max].map((v) =>
              m.count && Number.isFinite(v) ? v : null,
            ),
            m.missing,
          ]),
        },
      ],
    };
  },
};
