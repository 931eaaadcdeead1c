import type { Channel } from './channel';
import type { KnownUnit } from './engine';
import type { Plan } from './plan';
import type { Rule } from './rule';
import type { Scale } from './scale';

/** What every page shows around its content. */
export interface Overview {
  job: { id: string; name: string; place: string };
  jobs: { id: string; name: string; place: string }[];
  channels: Channel[];
  /** The plan that is armed next. */
  plan: { id: string; name: string; plan: Plan };
  plans: { id: string; name: string; plan: Plan }[];
  boards: { id: string; name: string }[];
  /** Hosts that rules may call. */
  hosts: string[];
  rules: { id: string; rule: Rule }[];
  takes: {
    id: string;
    number: number;
    name: string;
    folder: string;
    state: string;
    startedAt: number;
    durationMs: number;
  }[];
  studies: { count: number; outOfDate: number; running: number };
  lastFacts: Record<string, string>;
  /** Units on the list, without the texts of their descriptions and without secrets. */
  units: KnownUnit[];
  scales: Scale[];
  /** Columns of the channel table; null for the usual ones. */
  columns: string[] | null;
  sensors: { count: number; due: number; serials: string[] };
  /** Channels whose proof has to be dealt with before a take. */
  unproven: number;
}

/** One line of the logbook. */
export interface LogEntry {
  id: number;
  at: number;
  takeId: string | null;
  kind: string;
  says: string;
  by: string;
  /** Id of a picture that belongs to it. */
  picture: number | null;
}
