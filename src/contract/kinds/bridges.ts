import { linearConversion } from '$core/conversion/conversion';
import { BRIDGE_ARRANGEMENTS, bridgeStrain, type BridgeArrangement } from '$core/sensors/bridge';
import { leadDesensitisation } from '$core/sensors/shunt';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { COMMON_DEFAULTS, sampled, commonFields, positive } from './common';
import { direct, kind, type ChannelKind } from './kind';

const ARRANGEMENTS = Object.keys(BRIDGE_ARRANGEMENTS) as BridgeArrangement[];
/** Wires from a quarter bridge to its terminal. */
const LEADS = ['three wires', 'two wires'] as const;
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

/** Leads in series with the gauge of a quarter bridge. */
export const leadsInArm = (s: { arrangement?: unknown; leads?: unknown }): 0 | 1 | 2 =>
  s.arrangement !== 'quarter' ? 0 : s.leads === 'two wires' ? 2 : 1;

const FULL_BRIDGE = [
  { terminal: 'EX+', to: 'red' },
  { terminal: 'S+', to: 'white' },
  { terminal: 'S−', to: 'green' },
  { terminal: 'EX−', to: 'black' },
];

/** Where a bridge module is at its end, mV/V. */
const RAW_END = 24.9;

/** Strain gauges and sensors built from them. */
export const BRIDGE_KINDS: readonly ChannelKind[] = [
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
    sheet: ['arrangement', 'resistance', 'gaugeFactor', 'poisson', 'excitation'],
    rawUnit: 'mV/V',
    lawUnit: 'm/m',
    linear: false,
    certified: 'from raw',
    rawEnd: () => RAW_END,
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
        leads: field(z.enum(LEADS), {
          label: 'Leads',
          editor: 'choice',
          options: LEADS,
          help: 'Of a quarter bridge: with three wires the lead resistance cancels out of the zero, with two it does not.',
        }),
        leadOhm: field(z.number('Give a number.').min(0, 'At least 0 Ω.').max(100, 'At most 100 Ω.'), {
          label: 'Lead resistance',
          editor: 'number',
          unit: 'Ω',
          help: 'Of each lead to a quarter bridge; it takes sensitivity away, which is given back. 10 m of 0.25 mm² copper have about 0.7 Ω.',
        }),
        poisson: field(z.number().min(0).max(0.5), { label: 'Poisson ratio', editor: 'number' }),
        excitation,
        zero,
        ...commonFields,
      }),
      template: (s) =>
        `A {arrangement} bridge${s.arrangement === 'quarter' ? ` on {leads}${s.leadOhm ? ' of {leadOhm} each' : ''}` : ''} of {resistance} gauges with gauge factor {gaugeFactor}${String(s.arrangement).includes('transverse') ? ' and Poisson ratio {poisson}' : ''}, excited with {excitation}, zero at {zero}, read as strain in {unit} over {range}. ${sampled(s)}`,
    },
    defaults: {
      arrangement: 'quarter',
      resistance: 350,
      leads: 'three wires',
      leadOhm: 0,
      gaugeFactor: 2.08,
      poisson: 0.3,
      excitation: 2.5,
      zero: 0,
      unit: 'µε',
      range: { min: -3000, max: 3000 },
      rateHz: 2000,
      ...COMMON_DEFAULTS,
    },
    conversion: (s) =>
      direct('m/m', s.unit, {
        kind: 'bridge',
        arrangement: s.arrangement,
        gaugeFactor: s.gaugeFactor * leadDesensitisation(s.resistance, s.leadOhm, leadsInArm(s)),
        poisson: s.poisson,
        zero: s.zero,
      }),
    wires: (s) =>
      s.arrangement === 'quarter' && s.leads === 'two wires'
        ? [
            { terminal: 'EX+', to: 'red' },
            { terminal: 'S+', to: 'white' },
          ]
        : String(s.arrangement).startsWith('full')
          ? FULL_BRIDGE
          : [
              { terminal: 'EX+', to: 'red' },
              { terminal: 'S+', to: 'white' },
              { terminal: 'EX−', to: 'black' },
            ],
    powerFirst: true,
    bridge: {
      active: (s) => BRIDGE_ARRANGEMENTS[s.arrangement as BridgeArrangement](0.3).map((share) => share !== 0),
      byGaugeFactor: true,
      stepOf: (s, step) => ({
        value: bridgeStrain(
          s.arrangement as BridgeArrangement,
          Number(s.gaugeFactor) *
            leadDesensitisation(Number(s.resistance), Number(s.leadOhm ?? 0), leadsInArm(s)),
          Number(s.poisson),
          step,
        ),
        unit: 'm/m',
      }),
    },
    wiring:
      'Wire the gauge between EX+ and S+, its sense wire to EX−. The module completes the other arms of a quarter or half bridge.',
  }),
  kind({
    kind: 'bridge sensor',
    title: () => 'Full bridge',
    accepts: ['bridge'],
    sheet: ['resistance', 'sensitivity', 'fullScale', 'excitation'],
    pair: true,
    rawUnit: 'mV/V',
    lawUnit: null,
    linear: true,
    rawEnd: () => RAW_END,
    bridge: {
      active: () => [true, true, true, true],
      byGaugeFactor: false,
      stepOf: (s, step) => ({ value: (Number(s.fullScale) / Number(s.sensitivity)) * step }),
    },
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
      template: (s) =>
        `A full bridge of {resistance} giving {sensitivity} at {fullScale}, excited with {excitation}, zero at {zero}, read in {unit} over {range}. ${sampled(s)}`,
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
      ...COMMON_DEFAULTS,
    },
    conversion: (s) => linearConversion(s.fullScale / s.sensitivity, (-s.zero * s.fullScale) / s.sensitivity),
    wires: () => FULL_BRIDGE,
    powerFirst: true,
    wiring: 'Wire the supply to EX+ and EX−, the signal to S+ and S−. Swapped signal wires turn the sign.',
  }),
];
