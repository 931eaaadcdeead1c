import type { UnitState } from './unit';

// What pages know of the engine; nothing of what it is told, which is long.

export type AcquisitionState = 'Watching' | 'Armed' | 'Recording';

/** State of a channel, small enough to send 20 times a second; the order is the one on the wire. */
export const CHANNEL_STATES = [
  'ok',
  'warning',
  'alarm',
  'open',
  'over range',
  'lost',
  'not measured',
  'short',
  'silent',
] as const;
export type ChannelState = (typeof CHANNEL_STATES)[number];

export interface EngineStatus {
  state: AcquisitionState;
  take: {
    id: string;
    name: string;
    number: number;
    plan: string;
    startedMs: number | null;
    /** When it starts by itself, where the clock decides. */
    startsMs: number | null;
    /** Takes that follow by themselves; -1 for no end. */
    left: number;
    /** Name of the take of another plan that begins when this one ends. */
    follows: string | null;
    /** Whether full rates are kept now. */
    detailed: boolean;
  } | null;
  units: UnitState[];
  /** The shunts that are being read before or after a take. */
  proving: { moment: 'before' | 'after'; step: 'zero' | 'shunt'; leftS: number } | null;
  rules: { id: string; holds: boolean; fired: number; lastMs: number | null }[];
  outputs: Record<string, number>;
  /** Rates that the hardware really does, S/s, where it could not do the one asked for; by channel. */
  actualRates: Record<string, number>;
}

export const EMPTY_STATUS: EngineStatus = {
  state: 'Watching',
  take: null,
  proving: null,
  units: [],
  rules: [],
  outputs: {},
  actualRates: {},
};
