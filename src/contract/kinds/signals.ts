import { linearConversion } from '$core/conversion/conversion';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { quantityOf } from '$core/units/units';
import { SAMPLED, commonFields, positive } from './common';
import { direct, kind, type ChannelKind } from './kind';

/** Vibration, currents, voltages, pulses and contacts. */
export const SIGNAL_KINDS: readonly ChannelKind[] = [
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
];
