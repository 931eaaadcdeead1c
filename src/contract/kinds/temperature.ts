import { THERMOCOUPLE_TYPES, type ThermocoupleType } from '$core/sensors/thermocouple';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { SAMPLED, commonFields } from './common';
import { direct, kind, type ChannelKind } from './kind';

/** Temperature sensors. */
export const TEMPERATURE_KINDS: readonly ChannelKind[] = [
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
];
