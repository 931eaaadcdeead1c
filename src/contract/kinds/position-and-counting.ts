import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { quantityOf } from '$core/quantities/quantities';
import { z } from 'zod';
import { COMMON_DEFAULTS, sampled, bounded, commonFields, positive } from './common';
import { direct, kind, type ChannelKind } from './kind';

/** What a counter input makes of its edges. */
const COUNTED = ['position', 'total', 'period'] as const;
const EDGES = ['one edge', 'both edges', 'both tracks'] as const;
/** Counts of one line of an encoder. */
const EDGE_COUNTS: Record<(typeof EDGES)[number], number> = {
  'one edge': 1,
  'both edges': 2,
  'both tracks': 4,
};

/** Displacement by potentiometer, and what is counted. */
export const POSITION_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'potentiometer',
    title: () => 'Potentiometer',
    accepts: ['ratio'],
    sheet: ['low', 'high', 'excitation'],
    pair: true,
    rawUnit: 'V/V',
    lawUnit: null,
    linear: true,
    sentence: {
      schema: z
        .strictObject({
          low: field(bounded, {
            label: 'At the lower end',
            editor: 'number',
            unitFrom: 'unit',
            help: 'Where the wiper stands at the supply’s 0 V.',
          }),
          high: field(bounded, { label: 'At the upper end', editor: 'number', unitFrom: 'unit' }),
          excitation: field(z.number('Give a number.').min(0.5, 'At least 0.5 V.').max(10, 'At most 10 V.'), {
            label: 'Supply',
            editor: 'number',
            unit: 'V',
            help: 'Measured along: the reading is a share of it, so that it may drift.',
          }),
          ...commonFields,
        })
        .refine((s) => s.low !== s.high, { path: ['high'], message: 'It has to differ from the lower end.' }),
      template: (s) =>
        `A potentiometer going from {low} to {high}, supplied with {excitation}, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      low: 0,
      high: 100,
      excitation: 5,
      unit: 'mm',
      range: { min: 0, max: 100 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion(s.high - s.low, s.low),
    wires: () => [
      { terminal: 'EX+', to: 'upper end' },
      { terminal: 'W', to: 'wiper' },
      { terminal: 'EX−', to: 'lower end' },
    ],
    wiring: 'The ends go to EX+ and EX−, the wiper to W. With the ends swapped the reading runs backwards.',
    powerFirst: true,
  }),
  kind({
    kind: 'counter',
    title: (s) =>
      s.counts === 'position' ? `Encoder, ${s.perTurn}/rev` : s.counts === 'period' ? 'Period' : 'Total',
    accepts: ['pulse'],
    sheet: ['perTurn', 'edges'],
    rawUnit: '1',
    lawUnit: null,
    drifts: false,
    quantities: ['angle', 'ratio', 'length', 'time', 'volume'],
    linear: true,
    sentence: {
      schema: z.strictObject({
        counts: field(z.enum(COUNTED), {
          label: 'Gives',
          editor: 'choice',
          options: COUNTED,
          help: 'Position follows the direction of an encoder, total only grows, period is the time between edges.',
        }),
        edges: field(z.enum(EDGES), {
          label: 'Counts',
          editor: 'choice',
          options: EDGES,
          help: 'Both tracks of an encoder count four times a line and know the direction.',
        }),
        perTurn: field(positive(1e6, 'Give the lines or pulses of one revolution, above 0.'), {
          label: 'Pulses per revolution or unit',
          editor: 'number',
        }),
        ...commonFields,
      }),
      template: (s) =>
        s.counts === 'period'
          ? `The {counts} between edges, read in {unit} over {range}. ${sampled(s)}`
          : `The {counts} counted on {edges} of {perTurn} ${quantityOf(s.unit) === 'angle' ? 'pulses per revolution' : 'pulses per unit'}, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      counts: 'position',
      edges: 'both tracks',
      perTurn: 1000,
      unit: '°',
      range: { min: -360, max: 360 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => {
      if (s.counts === 'period')
        return direct('s', quantityOf(s.unit) === 'time' ? s.unit : 's', {
          kind: 'linear',
          slope: 1,
          offset: 0,
        });
      const lines = s.perTurn * EDGE_COUNTS[s.edges as keyof typeof EDGE_COUNTS];
      return quantityOf(s.unit) === 'angle'
        ? direct('rev', s.unit, { kind: 'linear', slope: 1 / lines, offset: 0 })
        : linearConversion(1 / lines, 0);
    },
    wires: (s) => [
      { terminal: 'P', to: s.edges === 'both tracks' ? 'track A' : 'pulse' },
      ...(s.edges === 'both tracks' ? [{ terminal: 'Q', to: 'track B' }] : []),
      { terminal: '0 V', to: 'return' },
    ],
    wiring: 'Track A goes to P, track B to Q: swapped, the position runs backwards.',
  }),
];
