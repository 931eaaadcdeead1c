import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { COMMON_DEFAULTS, limited, commonFields, positive } from './common';
import { kind, type ChannelKind } from './kind';

/** Where an output stands while nothing drives it, and how fast it may move. */
const atRest = field(z.number('Give a number.').min(-1e9).max(1e9), {
  label: 'Rest value',
  editor: 'number',
  unitFrom: 'unit',
  help: 'Where the output goes when the engine stops, the link is lost or a take ends by a fault.',
});
const ramp = field(positive(1e9).nullable(), {
  label: 'Change per second',
  editor: 'number',
  unitFrom: 'unit',
  none: 'any step',
  help: 'The output moves to a new value no faster than this. Going to rest is always at once.',
});
const restInRange = (s: { rest: number; range: { min: number; max: number } }) =>
  s.rest >= s.range.min && s.rest <= s.range.max;
const OUT_OF_RANGE = { path: ['rest'], message: 'The rest value has to lie in the range.' };

/** What is not measured: outputs, each with the law of what it is wired to, and channels computed from others. */
export const OTHER_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'driven',
    role: 'driven',
    title: () => 'Driven',
    accepts: ['output'],
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
          rest: atRest,
          ramp,
          ...commonFields,
        })
        .refine(restInRange, OUT_OF_RANGE),
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
    kind: 'driven switch',
    role: 'driven',
    title: () => 'Switch',
    accepts: ['relay', 'line'],
    rawUnit: '1',
    lawUnit: null,
    linear: false,
    sentence: {
      schema: z
        .strictObject({
          rest: field(z.literal([0, 1]), {
            label: 'Rest value',
            editor: 'choice',
            options: [0, 1],
            help: '1 is on: the relay is pulled, the line is high. It goes there when the engine stops, the link is lost or a take ends by a fault.',
          }),
          ...commonFields,
        })
        .refine((s) => s.unit === 'yes/no', {
          path: ['unit'],
          message: 'A switch is on or off: its unit is yes/no.',
        }),
      template: () => 'A switch, read as {unit}: 1 is on, 0 is off, at rest {rest}. Read back at {rateHz}.',
    },
    defaults: {
      rest: 0,
      unit: 'yes/no',
      range: { min: 0, max: 1 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: () => linearConversion(1, 0),
    wires: () => [
      { terminal: 'C', to: 'supply of the load' },
      { terminal: 'NO', to: 'load' },
    ],
    wiring: 'Switched on, the load is supplied. Test with the load’s power off first.',
  }),
  kind({
    kind: 'driven value',
    role: 'driven',
    title: () => 'Sent value',
    accepts: ['setting'],
    rawUnit: '1',
    lawUnit: null,
    linear: false,
    sentence: {
      schema: z.strictObject({ rest: atRest, ramp, ...commonFields }).refine(restInRange, OUT_OF_RANGE),
      template: () =>
        'A value that is sent as it stands, in {unit} over {range}, at rest {rest}, changed by at most {ramp}. What was sent last is held at {rateHz}.',
    },
    defaults: {
      rest: 0,
      ramp: null,
      unit: '1',
      range: { min: 0, max: 100 },
      rateHz: 10,
      ...COMMON_DEFAULTS,
    },
    conversion: () => linearConversion(1, 0),
    wires: () => [],
    wiring: 'It is sent by message: scaling stands in the description of the bus or device.',
  }),
  kind({
    kind: 'computed',
    role: 'computed',
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
