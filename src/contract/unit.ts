import { z } from 'zod';
import { ReceiverState } from './radio';

/** What a terminal accepts; decides which kinds of channel it can be. */
const TERMINAL_KINDS = [
  'bridge',
  'thermocouple',
  'junction',
  'vibration',
  'analog',
  'loop',
  'ratio',
  'pulse',
  'line',
  'output',
  'relay',
  /** A number that arrives by message: bus signal, field of a line, register, topic. */
  'value',
  /** A number that is sent by message. */
  'setting',
  /** Complex samples of a receiver’s band. */
  'radio samples',
  /** A number that is read of that band. */
  'radio reading',
] as const;
export type TerminalKind = (typeof TERMINAL_KINDS)[number];

export const Terminal = z.object({
  /** Place on the unit, such as “A2/1”. */
  id: z.string(),
  kind: z.enum(TERMINAL_KINDS),
  /** What stands there, for terminals that have a name of their own. */
  label: z.string().optional(),
  /** What is known of its number: filled into a channel that is made of it. */
  sheet: z
    .object({ unit: z.string(), slope: z.number(), offset: z.number(), min: z.number(), max: z.number() })
    .partial()
    .optional(),
  /** Resistor that the module can lay across an arm of the bridge, Ω, and which arm in ring order. */
  shunt: z
    .object({ ohm: z.number(), arm: z.union([z.literal(1), z.literal(2), z.literal(3), z.literal(4)]) })
    .optional(),
  /** Contacts of the plug, in order. */
  contacts: z.array(z.string()).optional(),
});
export type Terminal = z.infer<typeof Terminal>;

export const UnitModule = z.object({
  id: z.string(),
  title: z.string(),
  terminals: z.array(Terminal),
  /** Sample rates the module can do, S/s. */
  ratesHz: z.array(z.number()),
  /** Bandwidth of the alias filter as a share of the sample rate; 0 where values arrive by message. */
  bandwidthShare: z.number(),
});
export type UnitModule = z.infer<typeof UnitModule>;

/** A control of a stand-in unit: plays what a person or a fault does at the real one. */
export const StandInControl = z.object({
  id: z.string(),
  label: z.string(),
  unit: z.string(),
  min: z.number(),
  max: z.number(),
  value: z.number(),
  /** Terminal it belongs to; shown only there. */
  terminal: z.string().optional(),
  /** Kinds of terminals whose readings it moves, where it belongs to the whole unit. */
  moves: z.array(z.enum(TERMINAL_KINDS)).optional(),
});
export type StandInControl = z.infer<typeof StandInControl>;

export const FAULTS = [
  'none',
  'open wire',
  'broken gauge',
  'reversed polarity',
  'drift',
  'short',
  'stuck',
] as const;
export type Fault = (typeof FAULTS)[number];

/** Things a unit can be asked for beside measuring. */
const ABILITIES = ['self-test', 'reset', 'chips', 'monitor', 'send', 'log'] as const;
export type Ability = (typeof ABILITIES)[number];

export const UnitDescription = z.object({
  serial: z.string(),
  kind: z.string(),
  name: z.string(),
  firmware: z.string(),
  calibratedUntil: z.string(),
  /** Inside temperature in °C, where the unit measures it. */
  temperature: z.number().nullable(),
  modules: z.array(UnitModule),
  /** Empty for real hardware. */
  controls: z.array(StandInControl),
  faults: z.record(z.string(), z.enum(FAULTS)),
  standIn: z.boolean(),
  abilities: z.array(z.enum(ABILITIES)),
  /** How a receiver stands, where it is one. */
  receiver: ReceiverState.optional(),
  /** Counts worth knowing, such as lines that were not understood. */
  counts: z.array(z.object({ what: z.string(), count: z.number() })),
});
export type UnitDescription = z.infer<typeof UnitDescription>;

/** What a driver says of one input at one moment. */
export type Trouble = 'none' | 'open' | 'over range' | 'lost' | 'short' | 'silent';

/** What can be done to a terminal while trying a unit out. */
export const TryOut = z.discriminatedUnion('set', [
  z.strictObject({ set: z.literal('value'), value: z.number() }),
  z.strictObject({ set: z.literal('direction'), direction: z.enum(['in', 'out']) }),
  z.strictObject({ set: z.literal('level'), on: z.boolean() }),
  z.strictObject({
    set: z.literal('pulses'),
    hz: z.number().min(0, 'At least 0 Hz.').max(100_000, 'At most 100 kHz.'),
    duty: z.number().min(0.01, 'At least 1 %.').max(0.99, 'At most 99 %.'),
  }),
  z.strictObject({ set: z.literal('count from 0') }),
  z.strictObject({ set: z.literal('shunt'), on: z.boolean() }),
]);
export type TryOut = z.infer<typeof TryOut>;

/** One look at a terminal, free or in use. */
export interface Probe {
  unit: string;
  mean: number;
  noise: number;
  samples: number;
  trouble: Trouble;
  /** Said where the numbers mean nothing, such as at a floating input. */
  remark: string | null;
  /** Digital lines and counters. */
  line?: { direction: 'in' | 'out'; on: boolean; edges: number; pulsesHz: number; duty: number };
  /** Output value or shunt switch as it stands. */
  output?: number;
  shunt?: boolean;
  /** Bias of a sensor fed with constant current, V. */
  biasV?: number;
}

export interface SelfTest {
  ok: boolean;
  atMs: number;
  tookMs: number;
  checks: { what: string; ok: boolean; says: string }[];
}

/** A line, frame or message as it came. */
export interface Heard {
  timeMs: number;
  text: string;
  /** What was made of it, or why not. */
  says: string;
  ok: boolean;
}

export const UnitState = z.object({ description: UnitDescription, answering: z.boolean(), says: z.string() });
export type UnitState = z.infer<typeof UnitState>;

/** How a terminal stands. */
export type TerminalState = 'reading' | 'free' | 'trouble' | 'driven' | 'lost';
export const TERMINAL_SIGNS: Record<TerminalState, string> = {
  reading: '●',
  free: '○',
  trouble: '◇',
  driven: '→',
  lost: '◌',
};
