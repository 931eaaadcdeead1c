import { IDENTITY } from '$core/conversion/conversion';
import { badInput } from '$core/errors';
import { field } from '$core/sentence/sentence';
import { MEASURES, type Measure } from '$core/modulation/read';
import { z } from 'zod';
import {
  MODULATION,
  MODULATION_DEFAULTS,
  NUMBERS,
  ReadingWays,
  unitOfNumber,
  waysOf,
  type Modulation,
} from '../radio-modulation';
import { COMMON_DEFAULTS, commonFields, limited } from './common';
import { direct, kind, type ChannelKind } from './kind';

const megahertz = z
  .number('Give a number.')
  .positive('Give a frequency above 0 MHz.')
  .max(100_000, 'At most 100 GHz.');
const band = {
  from: field(megahertz, { label: 'From', editor: 'number', unit: 'MHz' }),
  to: field(megahertz, {
    label: 'To',
    editor: 'number',
    unit: 'MHz',
    help: 'Outside the receiver’s band nothing is read: tune it so that all of this lies within.',
  }),
};

/** A number that is read of a band again and again. */
const reading = (
  name: string,
  title: string,
  says: string,
  unit: string,
  range: { min: number; max: number },
) =>
  kind({
    kind: name,
    title: () => title,
    accepts: ['radio reading'],
    rawUnit: unit,
    sensor: false,
    drifts: false,
    lawUnit: unit,
    linear: false,
    sentence: {
      schema: z.strictObject({ ...band, ...commonFields }),
      template: (s) =>
        `${says} from {from} to {to}, averaged over each reading, {rateHz} of them a second; read in {unit} over {range}. ${limited(s)}`,
    },
    defaults: { from: 868, to: 868.6, unit, range, rateHz: 20, ...COMMON_DEFAULTS },
    conversion: (s) => {
      if (!(s.from < s.to))
        throw badInput('band', `${s.from} to ${s.to} MHz`, 'Its begin has to lie below its end.');
      return direct(unit, s.unit, IDENTITY.law);
    },
    wires: () => [],
    wiring: 'It is computed from what the receiver hears: nothing is to be wired.',
  });

/** Kind of the channels that are one number of a modulation that is read again and again. */
export const kindOfNumber = (of: Measure): string => `modulation, ${NUMBERS[of].name}`;
/** The number that channels of a kind are; undefined for other kinds. */
export const numberOfKind = (name: string): Measure | undefined =>
  MEASURES.find((of) => kindOfNumber(of) === name);

/** A reading that nothing follows stands so long, s. */
export const NUMBER_STANDS_S = 1;

const RANGES: Partial<Record<Measure, { min: number; max: number }>> = {
  offsetHz: { min: -20_000, max: 20_000 },
  symbolHz: { min: 0, max: 1e6 },
  deviationHz: { min: 0, max: 100_000 },
  mer: { min: 0, max: 60 },
  snr: { min: 0, max: 60 },
  origin: { min: -80, max: 0 },
  imbalance: { min: -3, max: 3 },
  quadrature: { min: -10, max: 10 },
  droop: { min: -0.1, max: 0.1 },
  rho: { min: 0, max: 1 },
  bitErrors: { min: 0, max: 100 },
};
const numberOf = (of: Measure) => {
  const { name, unit } = NUMBERS[of];
  const own = unitOfNumber(of);
  return kind({
    kind: kindOfNumber(of),
    title: () =>
      `${/^[a-z]/.test(name) ? name[0].toUpperCase() + name.slice(1) : name}${unit === 'dB/Sym' ? ' per symbol' : ''}`,
    accepts: ['radio reading'],
    rawUnit: own,
    sensor: false,
    drifts: false,
    lawUnit: own,
    linear: false,
    sentence: {
      schema: z.strictObject({ ...ReadingWays.shape, ...commonFields }),
      template: (s) =>
        `The ${name} of what is heard, at {rateHz}; each reading stands until the next, for ${NUMBER_STANDS_S} s at the most. ${MODULATION.template(s as unknown as Modulation)} Read in {unit} over {range}. ${limited(s)}`,
    },
    defaults: {
      ...waysOf(MODULATION_DEFAULTS),
      unit: own,
      range: RANGES[of] ?? { min: 0, max: 100 },
      rateHz: 5,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => direct(own, s.unit, IDENTITY.law),
    wires: () => [],
    wiring: 'It is computed from what the receiver hears: nothing is to be wired.',
  });
};

/** What a receiver gives: its samples, and readings of its band. */
export const RADIO_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'radio samples',
    title: () => 'Radio samples',
    accepts: ['radio samples'],
    rawUnit: 'V',
    sensor: false,
    drifts: false,
    lawUnit: 'V',
    linear: false,
    width: 2,
    sentence: {
      schema: z.strictObject({
        ...commonFields,
        rateHz: field(z.number('Give a number.').positive('Give a rate above 0 S/s.').max(1e8), {
          label: 'Sample rate',
          editor: 'choice',
          unit: 'S/s',
          options: { ask: 'rates', free: true },
          help: 'The receiver’s own rate holds: it is set on the receiver.',
        }),
      }),
      template: (s) =>
        `Every sample of the band, I and Q, V rms over 50 Ω; its magnitude is read in {unit} over {range}. Sampled at {rateHz}. ${limited(s)}`,
    },
    defaults: { unit: 'mV', range: { min: 0, max: 100 }, rateHz: 4e6, ...COMMON_DEFAULTS },
    conversion: (s) => direct('V', s.unit, IDENTITY.law),
    wires: () => [],
    wiring: 'The antenna goes to the receiver’s input.',
  }),
  reading('power in a band', 'Power in a band', 'Power', 'dBm', { min: -120, max: 0 }),
  reading('peak level', 'Level of the peak', 'Level of the highest peak', 'dBm', { min: -120, max: 0 }),
  reading(
    'peak frequency',
    'Frequency of the peak, from the middle',
    'Distance of the highest peak from the middle of the band',
    'Hz',
    { min: -300_000, max: 300_000 },
  ),
  ...MEASURES.map(numberOf),
];
