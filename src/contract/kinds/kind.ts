import type { Conversion } from '$core/conversion/conversion';
import type { Sentence } from '$core/sentence/sentence';
import { unitConversion } from '$core/quantities/quantities';
import type { z } from 'zod';
import type { TerminalKind } from '../unit';

export type Role = 'measured' | 'driven' | 'computed';

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
}

/** Keeps the types of one kind while it stands in a list of all. */
export const kind = <S extends z.ZodObject>(k: ChannelKind<S>) => k as unknown as ChannelKind;

/** A law that gives one unit, read in another of its quantity. */
export const direct = (from: string, to: string, law: Conversion['law']): Conversion => ({
  law,
  correction: { slope: 1, offset: 0 },
  unit: unitConversion(from, to),
});
