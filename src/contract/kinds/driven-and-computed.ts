import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { COMMON_DEFAULTS, limited, commonFields, positive } from './common';
import { kind, type ChannelKind } from './kind';

/** What is not measured: outputs, and channels computed from others. */
export const OTHER_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'driven',
    title: () => 'Driven',
    accepts: ['output', 'relay', 'line', 'setting'],
    rawUnit: 'V',
    lawUnit: null,
    linear: false,
    sentence: {
      schema: z
        .strictObject({
          slope: field(positive(1e6), {
            label: 'Units for each volt',
            editor: 'number',
            help: 'Of the amplifier behind the output: 2 A for each volt.',
          }),
          rest: field(z.number().min(-1e9).max(1e9), {
            label: 'Rest value',
            editor: 'number',
            unitFrom: 'unit',
            help: 'Where the output goes when the engine stops, the link is lost or a take ends by a fault.',
          }),
          ramp: field(positive(1e9).nullable(), {
            label: 'Change per second',
            editor: 'number',
            unitFrom: 'unit',
            none: 'any step',
            help: 'The output moves to a new value no faster than this. Going to rest is always at once.',
          }),
          ...commonFields,
        })
        .refine((s) => s.rest >= s.range.min && s.rest <= s.range.max, {
          path: ['rest'],
          message: 'The rest value has to lie in the range.',
        }),
      template: () =>
        'A driven output giving {slope} {unit} for each volt over {range}, at rest {rest}, changed by at most {ramp}. Read back at {rateHz}.',
    },
    defaults: {
      slope: 2,
      rest: 0,
      ramp: null,
      unit: 'A',
      range: { min: 0, max: 10 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion(s.slope, 0),
    wires: () => [
      { terminal: 'OUT', to: 'signal' },
      { terminal: '0 V', to: 'return' },
    ],
    wiring:
      'Wire OUT to the amplifier’s input and 0 V to its return. Test with the amplifier’s power off first.',
  }),
  kind({
    kind: 'computed',
    title: (s) => s.formula,
    accepts: [],
    rawUnit: '1',
    lawUnit: null,
    linear: false,
    sentence: {
      schema: z.strictObject({
        formula: field(z.string().trim().min(1, 'Write a formula.').max(2000), {
          label: 'Formula',
          editor: 'formula',
          help: 'Names of channels in quotation marks, as in "Shaft torque" * 2. Slower channels are held at their last value.',
        }),
        ...commonFields,
      }),
      template: (s) => `Computed as {formula}, read in {unit} over {range}. ${limited(s)}`,
    },
    defaults: {
      formula: '1',
      unit: '1',
      range: { min: 0, max: 1 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: () => linearConversion(1, 0),
    wires: () => [],
    wiring: '',
  }),
];
