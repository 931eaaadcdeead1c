import type { Conversion } from '$core/conversion/conversion';
import type { Sentence } from '$core/sentence/sentence';
import { unitConversion } from '$core/quantities/quantities';
import type { z } from 'zod';
import type { TerminalKind } from '../unit';

export type Role = 'measured' | 'driven' | 'computed';

/** What is true of a bridge. */
export interface BridgeFacts<S> {
  /** Which arms bear gauges, in ring order. */
  active: (settings: S) => readonly boolean[];
  /** Whether a gauge factor, known so well, stands between its output and its value. */
  byGaugeFactor: boolean;
  /** What a step of its output means by what its sheet says. @param step mV/V @returns the value; its unit where the sheet fixes one */
  stepOf: (sheet: S, step: number) => { value: number; unit?: string };
}

/** A kind of channel: what it can be wired to, its settings as a sentence, and how its reading becomes a quantity. */
export interface ChannelKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  /** Whether it is read, sets something, or is made of others. @default measured */
  role?: Role;
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
  wires: (settings: z.infer<S>) => { terminal: string; to: string }[];
  /** Whether the supply has to be off before wires are touched. */
  powerFirst?: boolean;
  /** How to wire it, in a sentence. */
  wiring: string;
  /** Quantities that it can be read in, where neither its law nor the unit chosen says so. */
  quantities?: readonly string[];
  /** Reading at which the hardware's input is at its end, in raw units. */
  rawEnd?: (settings: z.infer<S>) => number;
  /** Whether it needs the temperature of its terminals, which is acquired beside it. */
  needsJunction?: boolean;
  /** Whether the line or table of a certificate goes from raw to its unit, in place of its law. @default as `linear` */
  certified?: 'from raw';
  /** What a calibrator of the trade gives it, in its unit (sound: in dB re 20 µPa). */
  tone?: { level: number; in: 'unit' | 'dB'; hz: number };
  /** Numbers of a sample: 2 for complex ones, of which limits, conditions and readings take the magnitude. @default 1 */
  width?: 2;
  bridge?: BridgeFacts<z.infer<S>>;
  /** Whether what it reads can drift and has to be proven; what is counted or told cannot. @default true */
  drifts?: false;
  /** Settings that belong to the sensor, not to its use: what its sheet says. */
  sheet?: readonly string[];
  /** Raw readings between which a sound sensor works; beyond them it says that something is wrong. */
  works?: { above: number; below: number };
  /** Whether its signal comes on a pair that can be swapped, which turns its sign. */
  pair?: true;
  /** Whether a sensor of the drawer stands behind it. @default whether it is measured */
  sensor?: false;
}

/** Keeps the types of one kind while it stands in a list of all. */
export const kind = <S extends z.ZodObject>(k: ChannelKind<S>) => k as unknown as ChannelKind;

/** A law that gives one unit, read in another of its quantity. */
export const direct = (from: string, to: string, law: Conversion['law']): Conversion => ({
  law,
  correction: { slope: 1, offset: 0 },
  unit: unitConversion(from, to),
});
