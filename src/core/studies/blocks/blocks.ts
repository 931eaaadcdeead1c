import { z } from 'zod';
import { badInput } from '../../errors';
import type { Shaft } from '../../rotation/shaft';
import { firstFrom, rateHz, sampleS, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Moments } from '../../statistics/moments';
import { studentFactor } from '../../statistics/student-t';
import { numeric } from '../classes';
import { shaftOfSpeedChannel } from '../shaft';
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
  speed: field(z.string().nullable(), {
    label: 'By revolutions of',
    editor: 'channel',
    none: 'by time',
    help: 'A speed: a block holds so many whole revolutions of its shaft then.',
  }),
  turns: field(z.number().int().min(1).max(100_000), {
    label: 'Revolutions',
    editor: 'number',
    unit: 'revolutions',
  }),
});
type Settings = z.infer<typeof schema>;

/** Where blocks begin and end, in samples. @throws `bad_input` where none fits, or too many do */
function blocksOf(
  input: Sampled,
  { first, end }: { first: number; end: number },
  settings: Settings,
  turning: Shaft | null,
): { from: number; to: number }[] {
  const rate = rateHz(input);
  const tooMany = (count: number) =>
    badInput(
      'block',
      `${count} blocks`,
      `At most ${MOST} are told apart: choose longer blocks or a larger step.`,
    );
  if (turning) {
    const [from, to] = [
      Math.max(turning.fromS, sampleS(input, first)),
      Math.min(turning.toS, sampleS(input, end)),
    ];
    const turn = Math.ceil((turning.revolutionsAt(from) || 0) - 1e-9);
    const count = Math.floor((Math.floor(turning.revolutionsAt(to) + 1e-9) - turn) / settings.turns);
    if (!(count >= 1))
      throw badInput(
        'Revolutions',
        settings.turns,
        'The shaft does not turn so often in the span: choose fewer, or a longer span.',
      );
    if (count > MOST) throw tooMany(count);
    const place = (k: number) =>
      Math.min(end, Math.max(first, firstFrom(input, turning.secondsAt(turn + k * settings.turns))));
    return Array.from({ length: count }, (_, k) => ({ from: place(k), to: place(k + 1) })).filter(
      (b) => b.to > b.from,
    );
  }
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
  if (count > MOST) throw tooMany(count);
  return Array.from({ length: count }, (_, k) => ({ from: first + k * step, to: first + k * step + n }));
}

const MOST = 20_000;

/** Statistics of one channel over time, block by block or running, and how sure the mean is by their scatter (batch means; Law and Kelton, Simulation Modeling and
 *  Analysis, ch. 9): neighbouring samples are not independent, the means of long blocks nearly are. */
export const blocks: StudyKind<typeof schema> = {
  kind: 'blocks',
  title: 'Statistics by blocks',
  purpose: 'Mean, rms and extremes over time; how sure the mean is.',
  method: [
    {
      says: 'The same for each block. Statistical uncertainty of the mean of m blocks: t₀.₉₇₅(m − 1)·s(block means)/√m, apart from the calibration’s ±.',
      source: 'Bendat and Piersol, Random Data, ch. 8; JCGM 100:2008, 4.2',
    },
  ],
  asks: 'How large is it?',
  sketch: {
    behind: [0.4, 0.7, 0.3, 0.6, 0.8, 0.35, 0.55, 0.25, 0.7, 0.45, 0.9, 0.5, 0.8, 0.6],
    lines: [[0.5, 0.52, 0.48, 0.6, 0.7]],
    points: [[0.1, 0.5], [0.3, 0.52], [0.5, 0.48], [0.7, 0.6], [0.9, 0.7]], // prettier-ignore
  },
  sentence: {
    schema,
    template: ({ speed }) =>
      `Statistics of {channel} from {from} to {to} by blocks of ${speed ? '{turns} of {speed}' : '{block}, {step}, {speed}'}.`,
  },
  defaults: { channel: '', from: 0, to: null, block: 1, step: null, speed: null, turns: 1 },
  roles: [
    { key: 'channel', takes: 'one' },
    { key: 'speed', takes: 'one', unit: 'rpm', optional: true, byHand: true },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const [speed] = take.signals.speed ?? [];
    const turning = speed ? shaftOfSpeedChannel(speed, settings, () => undefined, signal) : null;
    const parts = blocksOf(input, { first, end }, settings, turning);
    const all = parts.map(({ from, to }, k) => {
      const m = new Moments();
      readSpan(input, from, to, (b) => m.push(b), () => undefined, signal); // prettier-ignore
      progress((k + 1) / parts.length);
      return { atS: sampleS(input, (from + to) / 2), m };
    });
    const whole = new Moments();
    if (turning || (settings.step ?? settings.block) >= settings.block)
      for (const { m } of all) if (m.count) whole.push([m.mean]);
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
