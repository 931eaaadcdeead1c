import type { RecorderSetup } from './plan';

/** Readings that are missing within a recording, and why. */
export interface Break {
  /** Index of the first one that is missing, and how many are. */
  at: number;
  count: number;
  why: string;
}

/** What a pocket recorder says of itself. */
export interface RecorderState {
  model: string;
  serial: string;
  firmware: string;
  name: string;
  phase: 'blank' | 'waits' | 'settles' | 'records' | 'stopped' | 'asleep';
  /** Of its recording; another one with each set-up, 0 before the first. */
  run: number;
  /** What its clock says now, and true time when it was set, as it was told then; ms since 1970. */
  saidMs: number;
  clockSetMs: number;
  setup: RecorderSetup | null;
  /** What its clock said at reading 0; null before its start. */
  startedMs: number | null;
  /** Index of the oldest reading that it holds, and one after the newest. */
  first: number;
  end: number;
  battery: { volts: number; share: number };
  /** Index of the reading with which each alarm began; null where none did. */
  alarms: { high: number | null; low: number | null; cleared: boolean };
  /** When its button was pushed while it recorded, by its clock, ms. */
  marks: number[];
  breaks: Break[];
  /** What a password is asked for. */
  locked: 'nothing' | 'setting up' | 'fetching too';
  /** The newest reading, in units; null in place of a missing one. */
  last: (number | null)[] | null;
  /** What its small display shows, and how its lamps blink now. */
  display: string;
  lamp: 'dark' | 'green, each minute' | 'red, each minute' | 'red, quickly';
  /** Of a stand-in: true time in the world that it plays, which may run faster than ours, ms. */
  worldMs?: number;
  /** Measured while it waited, kept apart: readings in hundredths, the newest last. */
  waiting: { toMs: number; values: number[] };
}
