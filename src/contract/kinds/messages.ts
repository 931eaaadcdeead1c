import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { timeoutField } from '../units/unit-kind';
import { COMMON_DEFAULTS, limited, bounded, commonFields } from './common';
import { kind, type ChannelKind } from './kind';

/** Numbers that arrive by message: bus signals, fields of lines, registers, topics, recordings. */
export const MESSAGE_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'value',
    title: () => 'Value',
    accepts: ['value'],
    rawUnit: '1',
    sensor: false,
    drifts: false,
    lawUnit: null,
    linear: true,
    sentence: {
      schema: z.strictObject({
        slope: field(
          bounded.refine((v) => v !== 0, 'A slope of 0 would read the same whatever arrives.'),
          {
            label: 'Times',
            editor: 'number',
            help: 'What the number is multiplied with, from the description of the bus or device.',
          },
        ),
        offset: field(bounded, { label: 'Plus', editor: 'number', unitFrom: 'unit' }),
        timeout: field(timeoutField, {
          label: 'Gap after',
          editor: 'number',
          unit: 's',
          help: 'When nothing has arrived for so long the value is missing instead of old.',
        }),
        ...commonFields,
      }),
      template: (s) =>
        `A number that arrives by message, times {slope} plus {offset}, read in {unit} over {range}; missing when nothing came for {timeout}. Held at {rateHz} between messages. ${limited(s)}`,
    },
    defaults: {
      slope: 1,
      offset: 0,
      timeout: 2,
      unit: '1',
      range: { min: 0, max: 100 },
      rateHz: 10,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion(s.slope, s.offset),
    wires: () => [],
    wiring: 'It arrives by message: look at the unit’s page for what was heard last.',
  }),
];
