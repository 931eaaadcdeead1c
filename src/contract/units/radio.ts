import { badInput } from '$core/errors';
import { field, type Sentence } from '$core/sentence/sentence';
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

const SPEEDS = [1, 0.5, 0.1, 0.01] as const;
const BESIDE = 'Heard {speed} times as fast as it was recorded, around {centre} where it does not say.';
const recorded = z.strictObject({
  source: field(z.string().max(200), {
    label: 'Recording',
    editor: 'choice',
    options: { ask: 'recordings' },
    none: 'a recording',
  }),
  again: field(z.enum(['from the start again', 'nothing more']), {
    label: 'At its end',
    editor: 'choice',
    options: ['from the start again', 'nothing more'],
  }),
  speed: field(
    z.number().refine((v) => (SPEEDS as readonly number[]).includes(v), 'Choose one of the list.'),
    {
      label: 'Speed',
      editor: 'choice',
      options: SPEEDS,
    },
  ),
  centre: field(z.number('Give a number.').min(0).max(1e5).nullable(), {
    label: 'Centre',
    editor: 'number',
    unit: 'MHz',
    none: '0 MHz',
  }),
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
  unitKind({
    kind: 'recorded band',
    title: 'Recorded band',
    says: 'I and Q that were recorded, as a take, a SigMF archive or a WAV file with two channels, heard again like a receiver.',
    prefix: 'RB',
    standIn: true,
    settings: { schema: recorded, template: () => `Plays {source}; at its end {again}. ${BESIDE}` },
    beside: { schema: recorded, template: () => BESIDE } as unknown as Sentence,
    defaults: { source: '', again: 'from the start again', speed: 1, centre: null },
    plays: {
      endings: ['sigmf', 'wav'],
      check: async (content, name) => {
        const riff = String.fromCharCode(...content.subarray(0, 4)) === 'RIFF';
        const tar = String.fromCharCode(...content.subarray(257, 262)) === 'ustar';
        if (!riff && !tar)
          throw badInput(
            'file',
            name,
            'Choose a SigMF archive, or a WAV file with I and Q as its two channels.',
          );
      },
    },
  }),
  unitKind({
    kind: 'network receiver',
    title: 'Network receiver',
    says: 'A receiver that sends I and Q over TCP in a plain framing that is documented.',
    prefix: 'RN',
    standIn: false,
    settings: {
      schema: z.strictObject({
        host: field(z.string().trim().min(1, 'Give its name or address.').max(200), {
          label: 'Host',
          editor: 'text',
        }),
        port: field(
          z
            .number('Give a number.')
            .int('Give a whole number.')
            .min(1, 'From 1.')
            .max(65535, 'At most 65535.'),
          {
            label: 'Port',
            editor: 'number',
          },
        ),
      }),
      template: () => 'Connects to {host}, port {port}.',
    },
    defaults: { host: '127.0.0.1', port: 7355 },
  }),
];
