import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { unitKind, type UnitKind } from './unit-kind';

/** Rates of the stand-in, MS/s. */
const RECEIVER_RATES = [0.25, 0.5, 1, 2, 4, 5, 8, 10, 12.5, 20] as const;

const centre = field(z.number('Give a number.').min(1, 'At least 1 MHz.').max(6000, 'At most 6 GHz.'), {
  label: 'Centre',
  editor: 'number',
  unit: 'MHz',
  help: 'Where it listens until it is tuned elsewhere.',
});
const gain = field(z.number('Give a number.').min(0, 'At least 0 dB.').max(50, 'At most 50 dB.'), {
  label: 'Gain',
  editor: 'number',
  unit: 'dB',
  help: 'More gain lowers the noise and the level at which it is overloaded.',
});

/** Receivers: units that deliver complex samples of a band. */
export const RADIO_UNITS: readonly UnitKind[] = [
  unitKind({
    kind: 'receiver',
    title: 'Receiver',
    says: 'Hears a quay full of radio: carriers, telemetry, a hopper, a pulsed beacon, a voice; each is set by hand.',
    prefix: 'RX',
    standIn: true,
    settings: {
      schema: z.strictObject({
        centre,
        rate: field(
          z
            .number()
            .refine((v) => (RECEIVER_RATES as readonly number[]).includes(v), 'Choose one of the list.'),
          {
            label: 'Sample rate',
            editor: 'choice',
            unit: 'MS/s',
            options: RECEIVER_RATES,
            help: 'Four fifths of it are the width that is heard at once.',
          },
        ),
        gain,
      }),
      template: () => 'Hears around {centre}, {rate}, with {gain} of gain.',
    },
    defaults: { centre: 868.6, rate: 4, gain: 20 },
  }),
];
