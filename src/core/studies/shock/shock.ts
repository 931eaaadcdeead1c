import { z } from 'zod';
import { badInput } from '../../errors';
import type { LineMark } from '../../figures/figure';
import { rateHz } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { ShockOscillator } from '../../signal/shock';
import { numeric } from '../classes';
import { readSpan, spanFields, spanOf } from '../span';
import type { StudyKind, StudyResult } from '../study';

const hz = (label: string) =>
  field(z.number().positive('Give a frequency above 0 Hz.').max(1e7), {
    label,
    editor: 'number',
    unit: 'Hz',
  });

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  lowest: hz('Lowest frequency'),
  highest: field(z.number().positive('Give a frequency above 0 Hz.').nullable(), {
    label: 'Highest frequency',
    editor: 'number',
    unit: 'Hz',
    none: 'a fifth of the sample rate',
    help: 'Above a tenth of the sample rate the samples are too far apart to show every peak.',
  }),
  perOctave: field(z.number().int().min(1).max(48), { label: 'Lines an octave', editor: 'number' }),
  quality: field(z.number().min(0.6, 'Above 0.5.').max(1000), {
    label: 'Quality',
    editor: 'number',
    help: 'Q = 1 / (2 · damping ratio); 10 is the usual one, 5 % of critical damping.',
  }),
});

/** What a shock does to others: largest acceleration of single degrees of freedom on a base that moves as measured (ISO 18431-4). Missing samples count as 0. */
export const shock: StudyKind<typeof schema> = {
  kind: 'shock',
  title: 'Shock response',
  purpose: 'What a shock does to what stands on it.',
  method: [
    {
      says: 'Largest response of oscillators of one mass with natural frequency f and damping ζ to the acceleration at their base: z̈ + 2ζωż + ω²z = −a, the acceleration of the mass, by a ramp-invariant recursion.',
      source: 'ISO 18431-4; Smallwood (1981)',
    },
  ],
  asks: 'How large is it?',
  sketch: { lines: [[0.1, 0.35, 0.6, 0.78, 0.92, 0.95, 0.88, 0.85, 0.84, 0.84]] },
  sentence: {
    schema,
    template: () =>
      'The shock response of {channel} from {from} to {to}, at {perOctave} lines an octave between {lowest} and {highest}, with a quality of {quality}.',
  },
  defaults: { channel: '', from: 0, to: null, lowest: 10, highest: null, perOctave: 12, quality: 10 },
  roles: [{ key: 'channel', takes: 'one', unit: 'm/s²' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    const highest = settings.highest ?? rate / 5;
    if (!(highest > settings.lowest))
      throw badInput(
        'highest frequency',
        `${highest} Hz`,
        `It has to be above the lowest, ${settings.lowest} Hz.`,
      );
    if (highest > rate / 2)
      throw badInput(
        'highest frequency',
        `${highest} Hz`,
        `Half the sample rate is ${rate / 2} Hz: nothing is measured above it.`,
      );
    const n = Math.floor(Math.log2(highest / settings.lowest) * settings.perOctave) + 1;
    const oscillators = Array.from({ length: n }, (_, k) => new ShockOscillator(settings.lowest * 2 ** (k / settings.perOctave), settings.quality, rate)); // prettier-ignore
    let missing = 0;
    readSpan(
      input,
      first,
      end,
      (block) => {
        for (let i = 0; i < block.length; i++) if (Number.isNaN(block[i])) missing++;
        for (const o of oscillators) o.push(block);
      },
      progress,
      signal,
    );
    const lines = oscillators.map((o) => o.line);
    const x = Float64Array.from(lines, (l) => l.frequencyHz);
    const mark = (name: string, y: (l: (typeof lines)[number]) => number, rest: Partial<LineMark>): LineMark => ({ mark: 'line', name, unit: input.unit, x, y: Float64Array.from(lines, y), ...rest }); // prettier-ignore
    const top = lines.reduce((best, l) => (l.maximax > best.maximax ? l : best), lines[0]);
    return {
      findings: [
        {
          label: 'Largest response',
          value: top.maximax,
          unit: input.unit,
          note: `at ${Number(top.frequencyHz.toPrecision(4))} Hz, Q ${settings.quality}`,
        },
        ...(missing
          ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples that count as 0' }]
          : []),
      ],
      figures: [
        {
          title: 'Shock response',
          x: { label: 'Frequency', unit: 'Hz', scale: 'logarithmic' },
          y: { label: 'Acceleration', unit: input.unit, scale: 'logarithmic' },
          marks: [
            mark('Largest', (l) => l.maximax || NaN, { colour: input.colour }),
            mark('Upwards', (l) => l.positive || NaN, { tone: 'muted' }),
            mark('Downwards', (l) => -l.negative || NaN, { tone: 'muted', dashed: true }),
          ],
        },
      ],
      tables: [
        {
          title: 'Response',
          columns: [
            numeric('Frequency', 'Hz'),
            numeric('Largest', input.unit),
            numeric('Upwards', input.unit),
            numeric('Downwards', input.unit),
          ],
          rows: lines.map((l) => [l.frequencyHz, l.maximax, l.positive, l.negative]),
        },
      ],
    };
  },
};
