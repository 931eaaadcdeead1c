import type { Channel } from './channel';
import type { KnownUnit } from './engine';
import type { Plan } from './plan';
import type { Rule } from './rule';
import type { Scale } from './scale';

/** What every page shows around its content. */
export interface Overview {
  job: { id: string; name: string; place: string; zone: string };
  jobs: { id: string; name: string; place: string }[];
  channels: Channel[];
  /** The plan that is armed next. */
  plan: { id: string; name: string; plan: Plan };
  plans: { id: string; name: string; plan: Plan }[];
  boards: { id: string; name: string }[];
  /** Hosts that rules may call. */
  hosts: string[];
  rules: { id: string; rule: Rule }[];
  /** The newest takes, up to a hundred; all of them are found by `GET /api/takes`. */
  takes: {
    id: string;
    number: number;
    name: string;
    folder: string;
    state: string;
    startedAt: number;
    durationMs: number;
  }[];
  /** How many takes there are, and the number the next one gets. */
  taken: { count: number; next: number };
  studies: { count: number; outOfDate: number; running: number };
  lastFacts: Record<string, string>;
  /** Units on the list, without the texts of their descriptions and without secrets. */
  units: KnownUnit[];
  scales: Scale[];
  /** Columns of the grid of channels; null for the usual ones. */
  columns: string[] | null;
  sensors: { count: number; due: number; serials: string[] };
  /** Instruments of the field: how many are known, and how many want attention. */
  field: { stations: number; recorders: number; attention: number };
  /** Channels whose proof has to be dealt with before a take. */
  unproven: number;
}

/** A resource of its own: what every page shows is fetched part by part. */
export type Part = keyof Overview;
/** Names each state of a part. */
export type Versions = Partial<Record<Part, string>>;
/** Parts as they are now; those that are known are left out. */
export interface Parts {
  parts: Partial<Overview>;
  versions: Versions;
}

const SETUP = [
  'channels',
  'rules',
  'plan',
  'plans',
  'boards',
  'units',
  'scales',
  'unproven',
  'hosts',
] as const;
const TAKES = ['takes', 'taken', 'lastFacts', 'studies'] as const;
const JOB = ['job', 'jobs', 'columns', 'sensors', 'field', ...SETUP, ...TAKES] as const;
/** What a note in the logbook may have changed, by its kind. */
export const CHANGED_BY: Record<string, readonly Part[]> = {
  field: ['field'],
  channel: SETUP,
  plan: SETUP,
  rule: SETUP,
  unit: SETUP,
  setup: JOB,
  calibration: [...SETUP, ...TAKES],
  sensor: ['sensors', 'channels', 'unproven'],
  started: TAKES,
  ended: TAKES,
  take: TAKES,
  report: TAKES,
  study: ['studies'],
  board: ['boards'],
  job: JOB,
};
/** What a page begins with: nothing before one is let in. */
export interface Begun {
  overview: Overview | null;
  versions: Versions;
}
export const ALL_PARTS: readonly Part[] = JOB;

/** One line of the logbook. */
export interface LogEntry {
  id: number;
  at: number;
  takeId: string | null;
  /** What that take is called now. */
  take?: string;
  kind: string;
  says: string;
  by: string;
  /** Id of a picture that belongs to it. */
  picture: number | null;
}
