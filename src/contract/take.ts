import { z } from 'zod';
import type { SampledHead } from '$core/samples/sampled';
import { Plan } from './plan';

export const TakeState = z.enum(['recording', 'complete', 'interrupted']);
export type TakeState = z.infer<typeof TakeState>;

/** What a take says of itself as a whole. */
export const TakeHead = z.object({
  id: z.string(),
  jobId: z.string(),
  job: z.string(),
  number: z.number().int(),
  name: z.string(),
  state: TakeState,
  /** Instant of time 0, UTC in ns, as decimal digits: too large for a float. */
  startNs: z.string(),
  /** Length in ns, up to the last instant recorded; null while it is recorded. */
  lengthNs: z.number().nullable(),
  facts: z.record(z.string(), z.string()),
  plan: Plan,
  planText: z.string(),
  coreVersion: z.number().int(),
  planName: z.string().default(''),
  folder: z.string().default(''),
  /** Which part of one recording, from the second on, where it rolled over. */
  part: z.number().int().nullable().default(null),
  /** The file of another program it was brought in from. */
  from: z.string().optional(),
});
export type TakeHead = z.infer<typeof TakeHead>;

/** How a unit's clock ran against the engine's while a take was recorded. */
export interface UnitTiming {
  unit: string;
  name: string;
  /** Its samples came this much after the instant their index says. */
  offsetMs: number;
  /** Positive: its clock is slow. */
  driftPpm: number;
  driftUncertaintyPpm: number;
  blocks: number;
}

/** Whether a take's file holds what it was closed with. */
export interface SealState {
  state: 'sealed' | 'changed' | 'not sealed';
  hash: string | null;
  at: number | null;
  /** Which parts of it differ now. */
  changed: string[];
}

/** What is written on a take's time axis, by itself or by a person, at a moment or over a span. */
export interface TakeNote {
  id: number;
  atS: number;
  /** Of a span: its end. */
  untilS: number | null;
  kind: string;
  says: string;
  by: string;
  /** When it was written, ms UTC; null where that was while the take was recorded. */
  written: number | null;
}

export const VERDICTS = ['good', 'doubtful', 'void'] as const;
export type Verdict = (typeof VERDICTS)[number];
/** What a person thought of a take. Later ones stand beside earlier ones; the last one counts. */
export interface Judgement {
  at: number;
  by: string;
  verdict: Verdict;
  reason: string;
}

/** A span without samples. */
export interface TakeGap {
  fromS: number;
  toS: number;
  reason: string;
  /** Of which signals. */
  signals: number[];
}

/** What was mended of a channel, in words. */
export interface MendView {
  id: string;
  kind: string;
  says: string;
  why: string;
  by: string;
  at: number;
}

/** A channel of a take as the page needs it. */
export interface TakeSignal extends Omit<SampledHead, 'id'> {
  /** In the file. */
  id: number;
  channelId: string | null;
  /** Decimals that suit the channel's range. */
  decimals: number;
  group: string;
  colour: number;
  role: string;
  /** Its sensor and settings at the time, as a sentence. */
  sentence: string;
  calibration: string;
  /** Since when and why its samples are read differently from the day of the take; null where they are not. */
  corrected: string | null;
  /** How it is made from others, in words; null where it was recorded. */
  made: string | null;
  mends: MendView[];
}

/** A bridge's zero and shunt step around a take, in its unit; null where it was not read. */
export interface ProofRow {
  name: string;
  unit: string;
  zeroBefore: number | null;
  zeroAfter: number | null;
  stepBefore: number | null;
  stepAfter: number | null;
  zeroMoved: number | null;
  /** Share of the step. */
  stepMoved: number | null;
}

export interface TakeView {
  head: TakeHead;
  durationS: number;
  signals: TakeSignal[];
  notes: TakeNote[];
  /** Which conversions this view shows, and whether there are others. */
  meaning: 'as recorded' | 'as corrected';
  corrected: boolean;
  proofs: ProofRow[];
  timing: UnitTiming[];
  gaps: TakeGap[];
  judgements: Judgement[];
}

/** The strips shown first: the first measured channel of each group that has values, up to five; where that are few, what else is measured. */
export function usualStrips(signals: TakeSignal[]): TakeSignal[] {
  const measured = signals.filter((s) => s.role === 'measured' && s.length > 0);
  const groups = new Set<string>();
  const first = measured.filter((s) => !groups.has(s.group) && groups.add(s.group)).slice(0, 5);
  const quantities = new Set(first.map((s) => s.quantity));
  const more = measured.filter(
    (s) => !first.includes(s) && !quantities.has(s.quantity) && quantities.add(s.quantity),
  );
  const chosen = new Set([...first, ...more.slice(0, Math.max(0, ENOUGH - first.length))]);
  return signals.filter((s) => chosen.has(s));
}
const ENOUGH = 3;
