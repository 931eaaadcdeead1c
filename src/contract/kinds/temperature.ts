import { THERMOCOUPLE_TYPES, type ThermocoupleType } from '$core/sensors/thermocouple';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { COMMON_DEFAULTS, sampled, commonFields } from './common';
import { direct, kind, type ChannelKind } from './kind';

const LEADS = ['four wires', 'three wires', 'two wires'] as const;

/** Temperature sensors. */
export const TEMPERATURE_KINDS: readonly ChannelKind[] = [
  kind({
    kind: 'thermocouple',
    title: (s) => `Thermocouple ${s.type}`,
    accepts: ['thermocouple'],
    sheet: ['type'],
    rawUnit: 'mV',
    lawUnit: '°C',
    linear: false,
    needsJunction: true,
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
      template: (s) =>
        `A type {type} thermocouple, its junction on the module compensated, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      type: 'K',
      unit: '°C',
      range: { min: 0, max: 120 },
      rateHz: 10,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => direct('°C', s.unit, { kind: 'thermocouple', type: s.type as ThermocoupleType }),
    wires: () => [
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
    sheet: ['r0', 'leads'],
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
        leads: field(z.enum(LEADS), {
          label: 'Leads',
          editor: 'choice',
          options: LEADS,
          help: 'Two wires add the resistance of the leads: 1 Ω reads as 2.6 K on a Pt100. Three cancel it where all are alike, four always.',
        }),
        leadOhm: field(z.number('Give a number.').min(0, 'At least 0 Ω.').max(100, 'At most 100 Ω.'), {
          label: 'Resistance of both leads',
          editor: 'number',
          unit: 'Ω',
          help: 'Taken off the reading of a two-wire sensor.',
        }),
        ...commonFields,
      }),
      template: (s) =>
        `A platinum sensor of {r0} at 0 °C on {leads}${s.leads === 'two wires' ? ' of {leadOhm}' : ''}, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      r0: 100,
      leads: 'four wires',
      leadOhm: 0,
      unit: '°C',
      range: { min: 0, max: 40 },
      rateHz: 10,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) =>
      direct('°C', s.unit, {
        kind: 'platinum',
        r0: s.r0,
        lead: s.leads === 'two wires' ? s.leadOhm : 0,
      }),
    wires: (s) =>
      [
        { terminal: 'I+', to: 'red' },
        { terminal: 'S+', to: 'red' },
        { terminal: 'S−', to: 'white' },
        { terminal: 'I−', to: 'white' },
      ].filter(
        ({ terminal }) =>
          s.leads === 'four wires' ||
          (s.leads === 'three wires' ? terminal !== 'S+' : terminal.startsWith('I')),
      ),
    wiring:
      'The outer contacts carry the current, the inner ones sense. Two wires go to I+ and I−, the third of three to S−, with a bridge from I+ to S+.',
  }),
  kind({
    kind: 'cold junction',
    title: () => 'Cold junction',
    accepts: ['junction'],
    rawUnit: '°C',
    sensor: false,
    drifts: false,
    lawUnit: '°C',
    linear: false,
    sentence: {
      schema: z.strictObject({ ...commonFields }),
      template: (s) =>
        `The temperature at the terminals of the module, which its thermocouples are compensated with, read in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: { unit: '°C', range: { min: 0, max: 60 }, rateHz: 10, ...COMMON_DEFAULTS },
    conversion: (s) => direct('°C', s.unit, { kind: 'linear', slope: 1, offset: 0 }),
    wires: () => [],
    wiring: 'Built into the module: keep draughts and hot air away from its terminals.',
  }),
];
