import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { quantityOf } from '$core/quantities/quantities';
import { COMMON_DEFAULTS, sampled, commonFields, positive } from './common';
import { direct, kind, type ChannelKind } from './kind';

const CURRENTS = [2, 4, 8] as const;
const COUPLINGS = ['AC', 'DC'] as const;
const coupling = field(z.enum(COUPLINGS), {
  label: 'Coupling',
  editor: 'choice',
  options: COUPLINGS,
  help: 'AC takes the steady part away (below about 0.5 Hz), DC keeps it.',
});
const INPUTS = [0.1, 1, 10, 60] as const;

/** Where the input of a sensor with its own amplifier is at its end. */
const IEPE_END_MV = 4990;

/** A sensor with its amplifier inside, fed with constant current. */
const iepe = (
  name: string,
  title: string,
  words: string,
  unit: string,
  sensitivityUnit: string,
  sensitivity: number,
  help: string,
  full: number,
  tone: ChannelKind['tone'],
): ChannelKind[] => [
  kind({
    kind: name,
    title: () => title,
    accepts: ['vibration'],
    rawUnit: 'mV',
    rawEnd: () => IEPE_END_MV,
    tone,
    sheet: ['sensitivity', 'supplyMa'],
    lawUnit: unit,
    linear: true,
    sentence: {
      schema: z.strictObject({
        sensitivity: field(positive(1e5, 'Give the sensitivity, above 0.'), {
          label: 'Sensitivity',
          editor: 'number',
          unit: sensitivityUnit,
          help,
        }),
        supplyMa: field(z.literal(CURRENTS), {
          label: 'Supply current',
          editor: 'choice',
          options: CURRENTS,
          unit: 'mA',
          help: 'Long cables and high frequencies need more: 4 mA carries 10 kHz over about 100 m.',
        }),
        coupling,
        ...commonFields,
      }),
      template: (s) =>
        `An IEPE ${words} of {sensitivity}, fed with {supplyMa}, {coupling} coupled, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      sensitivity,
      supplyMa: 4,
      coupling: 'AC',
      unit,
      range: { min: -full, max: full },
      rateHz: 5120,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) =>
      direct(unit, s.unit, { kind: 'linear', slope: 1 / (s.sensitivity as number), offset: 0 }),
    wires: () => [
      { terminal: '+', to: 'centre' },
      { terminal: '−', to: 'shield' },
    ],
    wiring: 'Use the coaxial cable of the sensor: the supply current and the signal share the centre.',
  }),
];

/** Vibration, sound, currents, voltages, pulses and contacts. */
export const SIGNAL_KINDS: readonly ChannelKind[] = [
  ...iepe(
    'vibration',
    'IEPE accel.',
    'accelerometer',
    'm/s²',
    'mV/(m/s²)',
    10.2,
    'From the calibration sheet: 100 mV/g are 10.2 mV/(m/s²).',
    20,
    { level: 10, in: 'unit', hz: 159.15 },
  ),
  ...iepe(
    'sound',
    'IEPE mic.',
    'measuring microphone',
    'Pa',
    'mV/Pa',
    50,
    'From the calibration sheet, often near 50 mV/Pa.',
    20,
    { level: 94, in: 'dB', hz: 1000 },
  ),
  kind({
    kind: 'current loop',
    title: () => '4–20 mA',
    accepts: ['analog', 'loop'],
    sheet: ['low', 'high'],
    works: { above: 3.6, below: 21 },
    rawUnit: 'mA',
    rawEnd: () => 24,
    lawUnit: null,
    linear: true,
    sentence: {
      schema: z
        .strictObject({
          low: field(z.number().min(-1e9).max(1e9), { label: 'At 4 mA', editor: 'number', unitFrom: 'unit' }),
          high: field(z.number().min(-1e9).max(1e9), {
            label: 'At 20 mA',
            editor: 'number',
            unitFrom: 'unit',
          }),
          ...commonFields,
        })
        .refine((s) => s.low !== s.high, {
          path: ['high'],
          message: 'It has to differ from the value at 4 mA.',
        }),
      template: (s) =>
        `A 4–20 mA transmitter giving {low} at 4 mA and {high} at 20 mA, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      low: 0,
      high: 5,
      unit: 'm/s',
      range: { min: 0, max: 5 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion((s.high - s.low) / 16, s.low - (s.high - s.low) / 4),
    wires: () => [
      { terminal: 'L+', to: 'supply' },
      { terminal: 'IN', to: 'signal' },
      { terminal: 'SH', to: 'shield' },
    ],
    wiring: 'The loop is fed from L+ and returns to IN. Below 3.6 mA the loop is broken.',
  }),
  kind({
    kind: 'voltage',
    title: () => 'Voltage',
    accepts: ['analog'],
    sheet: ['slope', 'offset'],
    pair: true,
    rawUnit: 'V',
    // Its input has the range that the channel sets, and a little more.
    rawEnd: (s) => s.input * 1.04,
    lawUnit: null,
    linear: true,
    sentence: {
      schema: z.strictObject({
        slope: field(
          z
            .number('Give a number.')
            .refine((v) => v !== 0, 'A slope of 0 would read the same whatever happens.'),
          { label: 'Slope', editor: 'number', help: 'Units for each volt.' },
        ),
        offset: field(z.number().min(-1e9).max(1e9), {
          label: 'Offset',
          editor: 'number',
          unitFrom: 'unit',
          help: 'Reading at 0 V.',
        }),
        input: field(z.literal(INPUTS), {
          label: 'Input range',
          editor: 'choice',
          options: INPUTS,
          unit: 'V',
          help: 'The smallest one that the signal fits into has the least noise.',
        }),
        coupling,
        ...commonFields,
      }),
      template: (s) =>
        `A voltage within ±{input}, {coupling} coupled, read as {slope} {unit} for each volt plus {offset}, over {range}. ${sampled(s)}`,
    },
    defaults: {
      slope: 1,
      offset: 0,
      input: 10,
      coupling: 'DC',
      unit: 'V',
      range: { min: -10, max: 10 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion(s.slope, s.offset),
    wires: () => [
      { terminal: 'V+', to: 'signal' },
      { terminal: 'V−', to: 'return' },
    ],
    wiring: 'Wire the signal to V+ and its return to V−. An open input floats and shows noise.',
  }),
  kind({
    kind: 'pulses',
    title: (s) => `Pulse, ${s.perTurn}/${s.unit === 'L/min' ? 'L' : 'rev'}`,
    accepts: ['pulse'],
    sheet: ['perTurn'],
    rawUnit: 'Hz',
    lawUnit: null,
    drifts: false,
    quantities: ['rotational speed', 'volume flow', 'frequency'],
    linear: true,
    sentence: {
      schema: z.strictObject({
        perTurn: field(positive(1e6, 'Give the pulses of one revolution (or litre), above 0.'), {
          label: 'Pulses per revolution or litre',
          editor: 'number',
          help: 'Teeth of the wheel, or the pulse value of the meter.',
        }),
        ...commonFields,
      }),
      template: (s) =>
        `A pulse train of {perTurn} ${s.unit === 'L/min' ? 'pulses per litre' : 'pulses per revolution'}, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      perTurn: 60,
      unit: 'rpm',
      range: { min: 0, max: 30 },
      rateHz: 100,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) =>
      quantityOf(s.unit) === 'rotational speed'
        ? direct('rev/s', s.unit, { kind: 'linear', slope: 1 / s.perTurn, offset: 0 })
        : quantityOf(s.unit) === 'volume flow'
          ? direct('L/min', s.unit, { kind: 'linear', slope: 60 / s.perTurn, offset: 0 })
          : direct('Hz', s.unit, { kind: 'linear', slope: 1 / s.perTurn, offset: 0 }),
    wires: () => [
      { terminal: 'P', to: 'pulse' },
      { terminal: '0 V', to: 'return' },
    ],
    wiring: 'Wire the pulse to P and its return to 0 V; the input counts edges rising through 1.5 V.',
  }),
  kind({
    kind: 'contact',
    title: () => 'Contact',
    accepts: ['pulse', 'line'],
    rawUnit: '1',
    lawUnit: null,
    drifts: false,
    linear: false,
    sentence: {
      schema: z.strictObject({ ...commonFields }),
      template: () => 'A contact, read as {unit}: closed is yes. Sampled at {rateHz}.',
    },
    defaults: { unit: 'yes/no', range: { min: 0, max: 1 }, rateHz: 100, ...COMMON_DEFAULTS },
    conversion: () => linearConversion(1, 0),
    wires: () => [
      { terminal: 'P', to: 'contact' },
      { terminal: '0 V', to: 'return' },
    ],
    wiring: 'Wire the contact between the input and 0 V; the input pulls up, closed reads as yes.',
  }),
];
