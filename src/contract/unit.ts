import { z } from 'zod';

/** What a terminal accepts; decides which kinds of channel it can be. */
export const TERMINAL_KINDS = ['bridge', 'thermocouple', 'vibration', 'analog', 'pulse', 'output'] as const;
export type TerminalKind = (typeof TERMINAL_KINDS)[number];

export const Terminal = z.object({
  /** Place on the unit, such as “A2/1”. */
  id: z.string(),
  kind: z.enum(TERMINAL_KINDS),
});
export type Terminal = z.infer<typeof Terminal>;

export const UnitModule = z.object({
  id: z.string(),
  title: z.string(),
  terminals: z.array(Terminal),
  /** Sample rates the module can do, S/s. */
  ratesHz: z.array(z.number()),
  /** Bandwidth of the alias filter as a share of the sample rate. */
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
});
export type StandInControl = z.infer<typeof StandInControl>;

export const FAULTS = ['none', 'open wire', 'broken gauge', 'reversed polarity', 'drift'] as const;
export type Fault = (typeof FAULTS)[number];

export const UnitDescription = z.object({
  serial: z.string(),
  kind: z.string(),
  name: z.string(),
  firmware: z.string(),
  calibratedUntil: z.string(),
  modules: z.array(UnitModule),
  /** Empty for real hardware. */
  controls: z.array(StandInControl),
  faults: z.record(z.string(), z.enum(FAULTS)),
  standIn: z.boolean(),
});
export type UnitDescription = z.infer<typeof UnitDescription>;

/** What a driver says of one input at one moment. */
export const TROUBLES = ['none', 'open', 'over range', 'lost'] as const;
export type Trouble = (typeof TROUBLES)[number];
