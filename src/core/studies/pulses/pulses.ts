import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { pulsesOf, stateLevels, type Pulse } from '../../signal/pulses';
import { numeric } from '../classes';
import { spanFields, spanOf } from '../span';
import type { StudyKind, StudyResult } from '../study';
import { readWhole } from '../whole';

const level = (label: string, none: string) =>
  field(z.number().min(-1e12).max(1e12).nullable(), { label, editor: 'number', unitFrom: 'channel', none });

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  base: level('Base level', 'its fullest lower level'),
  top: level('Top level', 'its fullest upper level'),
  hysteresis: field(z.number().min(0).max(49), {
    label: 'Hysteresis',
    editor: 'number',
    unit: '%',
    help: 'Of the amplitude, about half of it: noise on an edge makes no pulse of its own.',
  }),
  band: field(z.number().positive().max(50), {
    label: 'Settled within',
    editor: 'number',
    unit: '%',
    help: 'Of the amplitude, about the top level.',
  }),
});

/** Pulses between two levels: rise and fall (10 to 90 %), width at half, overshoot, settling, repetition (IEC 60469, IEEE Std 181). */
export const pulses: StudyKind<typeof schema> = {
  kind: 'pulses',
  title: 'Pulses',
  purpose: 'Width, rise, fall, overshoot, settling.',
  method: [
    {
      says: 'State levels as the sentence says, else the fullest bins of the histogram’s two halves; rise between 10 % and 90 % of the difference, width at 50 %, overshoot in per cent of it, settling into the band that the sentence says; instants by straight lines between samples.',
      source: 'IEC 60469:2013',
    },
  ],
  asks: 'What happens when?',
  sketch: { lines: [[0.05, 0.05, 0.05, 0.95, 0.9, 0.88, 0.88, 0.88, 0.05, 0.05, 0.05]] },
  sentence: {
    schema,
    template: () =>
      'The pulses of {channel} from {from} to {to}, between {base} and {top}, with {hysteresis} hysteresis, settled within {band}.',
  },
  defaults: { channel: '', from: 0, to: null, base: null, top: null, hysteresis: 10, band: 2 },
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const span = spanOf(input, settings);
    const values = readWhole(input, span, progress, signal);
    const found = stateLevels(values);
    const levels = { base: settings.base ?? found.base, top: settings.top ?? found.top };
    if (!Number.isFinite(levels.base + levels.top) || levels.base === levels.top)
      throw badInput(
        'levels',
        `${levels.base} and ${levels.top}`,
        'The signal has no two levels here: choose another span, or give both.',
      );
    const list = pulsesOf(values, levels, {
      hysteresis: settings.hysteresis / 100,
      band: settings.band / 100,
    });
    if (list.length === 0)
      throw badInput(
        'span',
        'no whole pulse',
        `None passes ${(levels.base + levels.top) / 2} ${input.unit} up and down: choose a longer span or other levels.`,
      );
    const rate = rateHz(input);
    const s = (samples: number) => (Number.isFinite(samples) ? samples / rate : null);
    const mean = (of: (p: Pulse) => number) => {
      const known = list.map(of).filter(Number.isFinite);
      return known.length ? known.reduce((a, b) => a + b, 0) / known.length : NaN;
    };
    const periods = list.slice(1).map((p, k) => p.riseAt - list[k].riseAt);
    const period = periods.reduce((a, b) => a + b, 0) / periods.length;
    const start = sampleS(input, span.first);
    return {
      findings: [
        {
          label: 'Pulses',
          value: list.length,
          unit: '1',
          note: `between ${Number(levels.base.toPrecision(4))} and ${Number(levels.top.toPrecision(4))} ${input.unit}`,
        },
        { label: 'Width', value: mean((p) => p.width) / rate, unit: 's', note: 'mean, at half' },
        { label: 'Rise', value: mean((p) => p.rise) / rate, unit: 's', note: 'mean, 10 to 90 %' },
        { label: 'Fall', value: mean((p) => p.fall) / rate, unit: 's', note: 'mean, 90 to 10 %' },
        {
          label: 'Overshoot',
          value: mean((p) => p.overshoot) * 100,
          unit: '%',
          note: 'mean, of the amplitude',
        },
        ...(periods.length
          ? [
              {
                label: 'Repetition',
                value: period / rate,
                unit: 's',
                note: `duty ${((100 * mean((p) => p.width)) / period).toPrecision(3)} %`,
              },
            ]
          : []),
      ].filter((f) => Number.isFinite(f.value)),
      figures: [
        {
          title: 'Widths',
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: { label: 'Width', unit: 's', scale: 'linear', min: 0 },
          marks: [
            { mark: 'stems', name: input.name, unit: 's', colour: input.colour, x: Float64Array.from(list, (p) => start + p.riseAt / rate), y: Float64Array.from(list, (p) => p.width / rate) }, // prettier-ignore
          ],
        },
      ],
      tables: [
        {
          title: 'Pulses',
          columns: [
            numeric('At', 's'),
            numeric('Width', 's'),
            numeric('Rise', 's'),
            numeric('Fall', 's'),
            numeric('Peak', input.unit),
            numeric('Overshoot', '%'),
            numeric('Settled after', 's'),
            numeric('To the next', 's'),
          ],
          rows: list.map((p, k) => [
            start + p.riseAt / rate,
            s(p.width),
            s(p.rise),
            s(p.fall),
            p.peak,
            p.overshoot * 100,
            s(p.settling),
            s(periods[k] ?? NaN),
          ]),
        },
      ],
    };
  },
};
