import type { Sentence } from '$core/sentence/sentence';
import { z } from 'zod';

/** How a unit is set up: where it is, what is read from it. */
export const UnitConfig = z.strictObject({
  /** By the kind's own sentence. */
  settings: z.record(z.string(), z.unknown()),
  /** Inputs and outputs that are chosen by hand, by the kind's row schema; each keeps its id for life. */
  sources: z
    .array(z.record(z.string(), z.unknown()).and(z.object({ id: z.string().min(1).max(40) })))
    .max(2000),
  /** Text of an imported description (database of a bus, recorded file). */
  database: z.object({ name: z.string().max(120), text: z.string().max(20_000_000) }).nullable(),
});
export type UnitConfig = z.infer<typeof UnitConfig>;
export const EMPTY_CONFIG: UnitConfig = { settings: {}, sources: [], database: null };

/** A kind of unit as people see it: what it is, how it is reached, what can be read from it. */
export interface UnitKind {
  kind: string;
  title: string;
  /** One line for the catalogue. */
  says: string;
  /** Needs no hardware. */
  standIn: boolean;
  /** Letters its serial numbers begin with where it has none of its own. */
  prefix: string;
  settings: Sentence | null;
  defaults: Record<string, unknown>;
  /** Of one that plays recordings: its settings without the recording, which is chosen beside them. */
  beside?: Sentence;
  /** Values chosen from what it offers, as rows of a table. */
  sources?: { what: string; row: z.ZodObject; defaults: Record<string, unknown> };
  /** A file that says what it carries. Its reader comes when it is needed. */
  database?: {
    what: string;
    ending: string;
    /** Reads it whole, to find what is wrong with it. @returns how many messages it has @throws `damaged` naming the line */
    entries: (text: string, name: string) => Promise<number>;
    /** The one that a stand-in comes with. */
    own?: () => Promise<{ name: string; text: string }>;
  };
  /** A recorded file that it plays, kept under one of these endings: its own, or the first. */
  plays?: {
    endings: readonly string[];
    /** @throws `bad_input`, `damaged` for a file that it cannot play */
    check: (content: Uint8Array, name: string) => Promise<void>;
  };
  /** What it hears, in a word for the head of its monitor. */
  hears?: 'Lines' | 'Messages' | 'Answers' | 'Frames';
  /** Where its serial numbers begin, where that is not 1. */
  firstNumber?: number;
}

export const unitKind = <S extends z.ZodObject>(
  kind: Omit<UnitKind, 'settings'> & { settings: Sentence<S> | null },
): UnitKind => kind as unknown as UnitKind;

/** Fields of every source row. */
export const sourceName = z.string().trim().min(1, 'Give it a name.').max(80, 'At most 80 characters.');
export const timeoutField = z
  .number('Give a number.')
  .positive('Give a time above 0 s.')
  .max(86400, 'At most a day.');
