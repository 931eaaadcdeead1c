import type { Channel } from './channel';
import type { Plan, Rule } from './plan';

/** What every page shows around its content. */
export interface Overview {
  job: { id: string; name: string; place: string };
  jobs: { id: string; name: string; place: string }[];
  channels: Channel[];
  plan: { id: string; name: string; plan: Plan };
  rules: { id: string; rule: Rule }[];
  takes: { id: string; number: number; name: string; state: string; startedAt: number; durationMs: number }[];
  studies: { count: number; outOfDate: number; running: number };
  lastFacts: Record<string, string>;
  catalogue: { kind: string; title: string }[];
}

/** One line of the logbook. */
export interface LogEntry {
  id: number;
  at: number;
  takeId: string | null;
  kind: string;
  says: string;
  by: string;
}
