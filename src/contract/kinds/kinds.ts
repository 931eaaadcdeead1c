import { linearConversion, type Conversion } from '$core/conversion/conversion';
import { BRIDGE_ARRANGEMENTS, type BridgeArrangement } from '$core/sensors/bridge';
import { THERMOCOUPLE_TYPES, type ThermocoupleType } from '$core/sensors/thermocouple';
import { field, type Sentence } from '$core/sentence/sentence';
import { quantityOf, unitConversion } from '$core/units/units';
import { z } from 'zod';
import type { TerminalKind } from '../unit';
import { SAMPLED, commonFields, positive } from './common';

/** A kind of channel: what it can be wired to, its settings as a sentence, and how its reading becomes a quantity. */
export interface ChannelKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  /** Short name for the table. */
  title: (settings: z.infer<S>) => string;
  accepts: TerminalKind[];
  /** Unit of what the hardware delivers. */
  rawUnit: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  /** The unit the law gives; null when the law gives the channel's own unit. */
  lawUnit: string | null;
  conversion: (settings: z.infer<S>) => Conversion;
  /** True when a calibration by points replaces slope and offset from raw to the channel's unit. */
  linear: boolean;
  /** Wires to the terminal, in order, with what each is for. */
  wires: { terminal: string; to: string }[];
  /** How to wire it, in a sentence. */
  wiring: string;
}

/** Keeps the types of one kind while it stands in a list of all. */
const kind = <S extends z.ZodObject>(k: ChannelKind<S>) => k as unknown as ChannelKind;

const direct = (from: string, to: string, law: Conversion['law']): Conversion => ({
  law,
  correction: { slope: 1, offset: 0 },
  unit: unitConversion(from, to),
});

const ARRANGEMENTS = Object.keys(BRIDGE_ARRANGEMENTS) as BridgeArrangement[];
const excitation = field(z.number('Give a number.').min(0.5, 'At least 0.5 V.').max(10, 'At most 10 V.'), {
  label: 'Excitation',
  editor: 'number',
  unit: 'V',
  help: 'Higher gives more signal and warms the gauge; 2.5 V suits 350 Ω on composite.',
});
const gaugeOhm = field(positive(10000).min(60, 'At least 60 Ω.'), {
  label: 'Resistance',
  editor: 'number',
  unit: 'Ω',
  help: 'Resistance of one arm, from the gauge’s data sheet.',
});
const zero = field(z.number().min(-50).max(50), {
  label: 'Zero',
  editor: 'number',
  unit: 'mV/V',
  help: 'Bridge output when nothing acts on it; balance sets it.',
});

export const CHANNEL_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'strain bridge',
    title: (s) =>
      s.arrangement === 'quarter'
        ? `Quarter bridge`
        : s.arrangement.replace(
            /^(half|full), /,
            (_, size) => `${size === 'half' ? 'Half' : 'Full'} bridge, `,
          ),
    accepts: ['bridge'],
    rawUnit: 'mV/V',
    lawUnit: 'm/m',
    linear: false,
    sentence: {
      schema: z.strictObject({
        arrangement: field(z.enum(ARRANGEMENTS), {
          label: 'Bridge',
          editor: 'choice',
          options: ARRANGEMENTS,
          help: 'Which arms are gauges; the wrong one gives a wrong factor of up to 4.',
        }),
        resistance: gaugeOhm,
        gaugeFactor: field(
          z
            .number('Give a number.')
            .min(0.5, 'Metal gauges have about 2: at least 0.5.')
            .max(200, 'At most 200.'),
          {
            label: 'Gauge factor',
            editor: 'number',
            help: 'From the gauge’s data sheet, about 2 for metal foil.',
          },
        ),
        poisson: field(z.number().min(0).max(0.5), { label: 'Poisson ratio', editor: 'number' }),
        excitation,
        zero,
        ...commonFields,
      }),
      template: (s) =>
        `A {arrangement} bridge of {resistance} gauges with gauge factor {gaugeFactor}${String(s.arrangement).includes('transverse') ? ' and Poisson ratio {poisson}' : ''}, excited with {excitation}, zero at {zero}, read as strain in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      arrangement: 'quarter',
      resistance: 350,
      gaugeFactor: 2.08,
      poisson: 0.3,
      excitation: 2.5,
      zero: 0,
      unit: 'µε',
      range: { min: -3000, max: 3000 },
      rateHz: 2000,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) =>
      direct('m/m', s.unit, {
        kind: 'bridge',
        arrangement: s.arrangement,
        gaugeFactor: s.gaugeFactor,
        poisson: s.poisson,
        zero: s.zero,
      }),
    wires: [
      { terminal: 'EX+', to: 'red' },
      { terminal: 'S+', to: 'white' },
      { terminal: 'EX−', to: 'black' },
    ],
    wiring:
      'Wire the gauge between EX+ and S+, its sense wire to EX−. The module completes the other arms of a quarter or half bridge.',
  }),
  kind({
    kind: 'bridge sensor',
    title: () => 'Full bridge',
    accepts: ['bridge'],
    rawUnit: 'mV/V',
    lawUnit: null,
    linear: true,
    sentence: {
      schema: z.strictObject({
        resistance: gaugeOhm,
        sensitivity: field(positive(100, 'Give the output at full scale, above 0 mV/V.'), {
          label: 'Output at full scale',
          editor: 'number',
          unit: 'mV/V',
          help: 'From the calibration sheet, often near 2 mV/V.',
        }),
        fullScale: field(positive(1e9), {
          label: 'Full scale',
          editor: 'number',
          unitFrom: 'unit',
          help: 'The load that gives this output.',
        }),
        excitation,
        zero,
        ...commonFields,
      }),
      template: () =>
        `A full bridge of {resistance} giving {sensitivity} at {fullScale}, excited with {excitation}, zero at {zero}, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      resistance: 350,
      sensitivity: 2,
      fullScale: 5,
      excitation: 5,
      zero: 0,
      unit: 'kN·m',
      range: { min: -5, max: 5 },
      rateHz: 2000,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => linearConversion(s.fullScale / s.sensitivity, (-s.zero * s.fullScale) / s.sensitivity),
    wires: [
      { terminal: 'EX+', to: 'red' },
      { terminal: 'S+', to: 'white' },
      { terminal: 'S−', to: 'green' },
      { terminal: 'EX−', to: 'black' },
    ],
    wiring: 'Wire the supply to EX+ and EX−, the signal to S+ and S−. Swapped signal wires turn the sign.',
  }),
  kind({
    kind: 'thermocouple',
    title: (s) => `Thermocouple ${s.type}`,
    accepts: ['thermocouple'],
    rawUnit: 'mV',
    lawUnit: '°C',
    linear: false,
    sentence: {
      schema: z.strictObject({
        type: field(z.enum(THERMOCOUPLE_TYPES), {
          label: 'Type',
          editor: 'choice',
          options: THERMOCOUPLE_TYPES,
          help: 'The letter on the plug. A wrong one reads wrong by many degrees, and plausibly.',
        }),
        ...commonFields,
      }),
      template: () =>
        `A type {type} thermocouple, its junction on the module compensated, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      type: 'K',
      unit: '°C',
      range: { min: 0, max: 120 },
      rateHz: 10,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => direct('°C', s.unit, { kind: 'thermocouple', type: s.type as ThermocoupleType }),
    wires: [
      { terminal: '+', to: 'positive leg' },
      { terminal: '−', to: 'negative leg' },
    ],
    wiring:
      'Wire the positive leg to +, the negative one to −. Swapped, the reading falls when the tip is warmed.',
  }),
  kind({
    kind: 'platinum sensor',
    title: (s) => `RTD Pt${s.r0}`,
    accepts: ['thermocouple'],
    rawUnit: 'Ω',
    lawUnit: '°C',
    linear: false,
    sentence: {
      schema: z.strictObject({
        r0: field(z.union([z.literal(100), z.literal(500), z.literal(1000)]), {
          label: 'Resistance at 0 °C',
          editor: 'choice',
          options: [100, 500, 1000],
          unit: 'Ω',
          help: 'Pt100 has 100 Ω at 0 °C.',
        }),
        ...commonFields,
      }),
      template: () => `A four-wire platinum sensor of {r0} at 0 °C, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      r0: 100,
      unit: '°C',
      range: { min: 0, max: 40 },
      rateHz: 10,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => direct('°C', s.unit, { kind: 'platinum', r0: s.r0 }),
    wires: [
      { terminal: 'I+', to: 'red' },
      { terminal: 'S+', to: 'red' },
      { terminal: 'S−', to: 'white' },
      { terminal: 'I−', to: 'white' },
    ],
    wiring:
      'Two wires from each end of the sensor: the outer pair carries the current, the inner pair senses.',
  }),
  kind({
    kind: 'vibration',
    title: () => 'IEPE accel.',
    accepts: ['vibration'],
    rawUnit: 'mV',
    lawUnit: 'm/s²',
    linear: true,
    sentence: {
      schema: z.strictObject({
        sensitivity: field(positive(1e5, 'Give the sensitivity, above 0.'), {
          label: 'Sensitivity',
          editor: 'number',
          unit: 'mV/(m/s²)',
          help: 'From the calibration sheet: 100 mV/g are 10.2 mV/(m/s²).',
        }),
        ...commonFields,
      }),
      template: () =>
        `An IEPE accelerometer of {sensitivity}, supplied with 4 mA, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      sensitivity: 10.2,
      unit: 'm/s²',
      range: { min: -20, max: 20 },
      rateHz: 5120,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => direct('m/s²', s.unit, { kind: 'linear', slope: 1 / s.sensitivity, offset: 0 }),
    wires: [
      { terminal: '+', to: 'centre' },
      { terminal: '−', to: 'shield' },
    ],
    wiring: 'Use the coaxial cable of the sensor: the supply current and the signal share the centre.',
  }),
  kind({
    kind: 'current loop',
    title: () => '4–20 mA',
    accepts: ['analog'],
    rawUnit: 'mA',
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
      template: () =>
        `A 4–20 mA transmitter giving {low} at 4 mA and {high} at 20 mA, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      low: 0,
      high: 5,
      unit: 'm/s',
      range: { min: 0, max: 5 },
      rateHz: 100,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => linearConversion((s.high - s.low) / 16, s.low - (s.high - s.low) / 4),
    wires: [
      { terminal: 'L+', to: 'supply' },
      { terminal: 'IN', to: 'signal' },
      { terminal: '⏚', to: 'shield' },
    ],
    wiring: 'The loop is fed from L+ and returns to IN. Below 3.6 mA the loop is broken.',
  }),
  kind({
    kind: 'voltage',
    title: () => 'Voltage',
    accepts: ['analog'],
    rawUnit: 'V',
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
        ...commonFields,
      }),
      template: () =>
        `A voltage of ±10 V read as {slope} {unit} for each volt plus {offset}, over {range}. ${SAMPLED}`,
    },
    defaults: {
      slope: 1,
      offset: 0,
      unit: 'V',
      range: { min: -10, max: 10 },
      rateHz: 100,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => linearConversion(s.slope, s.offset),
    wires: [
      { terminal: 'V+', to: 'signal' },
      { terminal: 'V−', to: 'return' },
    ],
    wiring: 'Wire the signal to V+ and its return to V−. An open input floats and shows noise.',
  }),
  kind({
    kind: 'pulses',
    title: (s) => `Pulse, ${s.perTurn}/${s.unit === 'L/min' ? 'L' : 'rev'}`,
    accepts: ['pulse'],
    rawUnit: 'Hz',
    lawUnit: null,
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
        `A pulse train of {perTurn} ${s.unit === 'L/min' ? 'pulses per litre' : 'pulses per revolution'}, read in {unit} over {range}. ${SAMPLED}`,
    },
    defaults: {
      perTurn: 60,
      unit: 'rpm',
      range: { min: 0, max: 30 },
      rateHz: 100,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) =>
      quantityOf(s.unit) === 'rotational speed'
        ? direct('rev/s', s.unit, { kind: 'linear', slope: 1 / s.perTurn, offset: 0 })
        : quantityOf(s.unit) === 'volume flow'
          ? direct('L/min', s.unit, { kind: 'linear', slope: 60 / s.perTurn, offset: 0 })
          : direct('Hz', s.unit, { kind: 'linear', slope: 1 / s.perTurn, offset: 0 }),
    wires: [
      { terminal: 'P', to: 'pulse' },
      { terminal: '0 V', to: 'return' },
    ],
    wiring: 'Wire the pulse to P and its return to 0 V; the input counts edges rising through 1.5 V.',
  }),
  kind({
    kind: 'contact',
    title: () => 'Contact',
    accepts: ['pulse'],
    rawUnit: '1',
    lawUnit: null,
    linear: false,
    sentence: {
      schema: z.strictObject({ ...commonFields }),
      template: () => 'A contact, read as {unit}: closed is yes. Sampled at {rateHz}.',
    },
    defaults: { unit: 'yes/no', range: { min: 0, max: 1 }, rateHz: 100, warnAbove: null, alarmAbove: null },
    conversion: () => linearConversion(1, 0),
    wires: [
      { terminal: 'P', to: 'contact' },
      { terminal: '0 V', to: 'return' },
    ],
    wiring: 'Wire the contact between P and 0 V; the input pulls up, closed reads as yes.',
  }),
  kind({
    kind: 'driven',
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
          rest: field(z.number().min(-1e9).max(1e9), {
            label: 'Rest value',
            editor: 'number',
            unitFrom: 'unit',
            help: 'Where the output goes when the engine stops, the link is lost or a take ends by a fault.',
          }),
          ...commonFields,
        })
        .refine((s) => s.rest >= s.range.min && s.rest <= s.range.max, {
          path: ['rest'],
          message: 'The rest value has to lie in the range.',
        }),
      template: () =>
        'A driven output giving {slope} {unit} for each volt over {range}, at rest {rest}. Read back at {rateHz}.',
    },
    defaults: {
      slope: 2,
      rest: 0,
      unit: 'A',
      range: { min: 0, max: 10 },
      rateHz: 100,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: (s) => linearConversion(s.slope, 0),
    wires: [
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
      template: () =>
        'Computed as {formula}, read in {unit} over {range}. Warn above {warnAbove}, alarm above {alarmAbove}.',
    },
    defaults: {
      formula: '1',
      unit: '1',
      range: { min: 0, max: 1 },
      rateHz: 100,
      warnAbove: null,
      alarmAbove: null,
    },
    conversion: () => linearConversion(1, 0),
    wires: [],
    wiring: '',
  }),
];
