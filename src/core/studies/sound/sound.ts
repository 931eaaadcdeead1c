import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { TIME_WEIGHTINGS, WeightedSignal, WeightedSquare, exceededLevel } from '../../signal/sound';
import { WEIGHTINGS } from '../../spectrum/bands';
import { numeric, words } from '../classes';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, StudyKind } from '../study';

const EXCEEDED = [1, 5, 10, 50, 90, 95, 99] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  weighting: field(z.enum(WEIGHTINGS), {
    label: 'Frequency weighting',
    editor: 'choice',
    options: WEIGHTINGS,
  }),
  time: field(z.enum(TIME_WEIGHTINGS), {
    label: 'Time weighting',
    editor: 'choice',
    options: TIME_WEIGHTINGS,
    help: 'Fast: 125 ms. Slow: 1 s. Impulse: 35 ms upwards, falling by 2.9 dB a second.',
  }),
  reference: field(z.number().positive('Give a value above 0.'), {
    label: 'Reference of 0 dB',
    editor: 'number',
    help: 'In the unit of the channel: 0.00002 for sound in Pa.',
  }),
  step: field(z.number().min(0.01, 'At least 0.01 s.').max(3600), {
    label: 'A level each',
    editor: 'number',
    unit: 's',
    help: 'What is drawn, and what the statistical levels are taken of.',
  }),
});

/** Sound level over time with its equivalent, extreme and statistical levels. Gaps count nowhere. */
export const sound: StudyKind<typeof schema> = {
  kind: 'sound',
  title: 'Sound level over time',
  purpose: 'A, C or Z; fast, slow, impulse; equivalent and statistical levels.',
  method: [
    {
      says: 'Weighted line by line in overlapping segments, squared, y(i) = a·y(i − 1) + (1 − a)·p²(i) with a = exp(−1/(f_s·τ)), L = 10 lg(y/p₀²); from rest, so that the first few τ rise.',
      source: 'IEC 61672-1:2013',
    },
    {
      says: 'Equivalent level 10 lg of the mean of p²/p₀² over the span; L_N is exceeded during N per cent of the time.',
      source: 'IEC 61672-1:2013; ISO 1996-1',
    },
  ],
  asks: 'How large is it?',
  sketch: {
    lines: [
      [0.2, 0.35, 0.3, 0.6, 0.55, 0.9, 0.7, 0.5, 0.45, 0.3, 0.35, 0.25],
      [0.5, 0.5],
    ],
  },
  sentence: {
    schema,
    template: () =>
      'The level of {channel} from {from} to {to}, weighted {weighting} and {time}, over {reference}, a level each {step}.',
  },
  defaults: { channel: '', from: 0, to: null, weighting: 'A', time: 'fast', reference: 2e-5, step: 0.125 },
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal) {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    const every = Math.round(settings.step * rate);
    if (every < 1)
      throw badInput('A level each', `${settings.step} s`, `At ${Number(rate.toPrecision(6))} samples/s give at least ${Number((1 / rate).toPrecision(3))} s.`); // prettier-ignore
    const scale = 1 / settings.reference ** 2;
    const square = new WeightedSquare(settings.time, rate);
    const levels = new Float64Array(Math.floor((end - first) / every));
    let at = 0;
    let energy = 0;
    let counted = 0;
    let missing = 0;
    let highest = 0;
    let lowest = Infinity;
    let highestAt = 0;
    let peak = 0;
    let any = false;
    // From rest it rises: the lowest is looked for once it has.
    const settled = Math.min(end - first - 1, Math.round(rate * (settings.time === 'slow' ? 5 : 1)));
    const weighted = new WeightedSignal(settings.weighting, rate, (values) => {
      for (const value of values) {
        const y = square.step(value * value);
        if (value === value) {
          energy += value * value;
          counted++;
          any = true;
          peak = Math.max(peak, Math.abs(value));
          if (y > highest) [highest, highestAt] = [y, at];
          if (at >= settled && y < lowest) lowest = y;
        } else missing++;
        at++;
        if (at % every === 0 && at / every <= levels.length) {
          levels[at / every - 1] = any ? 10 * Math.log10(y * scale) : NaN;
          any = false;
        }
      }
    });
    readSpan(input, first, end, (block) => weighted.push(block), progress, signal);
    weighted.finish();
    if (counted === 0) throw badInput('span', 'nothing but gaps', 'Choose a span with readings.');
    const db = (ms: number) => 10 * Math.log10(ms * scale);
    const unit = settings.weighting === 'Z' ? 'dB' : `dB(${settings.weighting})`;
    const sorted = levels
      .filter((l) => Number.isFinite(l))
      .sort()
      .reverse();
    const equivalent = db(energy / counted);
    const findings: Finding[] = [
      { label: 'Equivalent level', value: equivalent, unit, note: `over ${Number((counted / rate).toPrecision(4))} s` },
      { label: 'Highest level', value: db(highest), unit, note: `${settings.time}, at ${sampleS(input, first + highestAt).toFixed(2)} s` },
      ...(Number.isFinite(lowest) && lowest > 0 ? [{ label: 'Lowest level', value: db(lowest), unit, note: 'once it has risen' }] : []),
      { label: 'Exposure level', value: db(energy / rate), unit, note: 'over 1 s' },
      { label: 'Peak', value: 20 * Math.log10(peak / settings.reference), unit, note: 'of the weighted signal, without time weighting' },
      ...[10, 50, 90].map((n) => ({ label: `Exceeded ${n} % of the time`, value: exceededLevel(sorted, n), unit })),
      ...(missing ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples; they count nowhere' }] : []),
    ]; // prettier-ignore
    return {
      findings,
      figures: [
        {
          title: 'Level over time',
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: { label: 'Level', unit, scale: 'linear' },
          marks: [
            {
              mark: 'line',
              name: input.name,
              unit,
              colour: input.colour,
              x: { from: sampleS(input, first + every), step: every / rate, length: levels.length },
              y: levels,
            },
          ],
        },
      ],
      tables: [
        {
          title: 'Statistical levels',
          columns: [words('Exceeded'), numeric('Level', unit)],
          rows: EXCEEDED.map((n) => [`${n} % of the time`, exceededLevel(sorted, n)]),
        },
      ],
    };
  },
};
