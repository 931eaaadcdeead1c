import type { CancelSignal, Progress } from '../studies/study';
import type { Powers } from './answers';
import type { Gathered, Health, ModalRecord } from './gather';
import type { Hit } from './hits';

/** Ways in which a structure is driven by forces that are measured. */
export const DRIVEN = ['hit by hit', 'by segments of a lasting force'] as const;
export type Driven = (typeof DRIVEN)[number];
export const isDriven = (way: string): way is Driven => (DRIVEN as readonly string[]).includes(way);

export interface DrivenOptions {
  method: Driven;
  /** So many of the records’ last signals are forces. */
  forces: number;
  /** Samples that an answer is followed for, after every `factor`th was kept. */
  lags: number;
  factor: number;
  /** Share that the window leaves at the end; hits alone. */
  left: number;
  /** How long after it began a hit’s force counts, s, and the share of the largest force from which on it is one. */
  keepS: number;
  level: number;
  /** Hits that count although something speaks against them, or do not although nothing does: `keyOf`. */
  turned: ReadonlySet<string>;
}

/** By what a hit is known when everything is made anew: its recording, and when it was, to 10 ms. */
export const keyOf = ({ record, atS }: Pick<Hit, 'record' | 'atS'>): string => `${record}@${atS.toFixed(2)}`;

/** A hit with what became of it. */
export interface TriedHit extends Hit {
  key: string;
  counts: boolean;
  /** Force over the frame, after one of so many samples was kept, without what it had before the hit. */
  course: Float32Array;
}
export interface Driving extends Gathered {
  hits: TriedHit[];
  /** Of each pair over the lines of the lags, shape [responses·forces][lags / 2 + 1]. */
  coherence: Float32Array;
  /** Frequency that each force reaches, Hz: there its power is a hundredth of its largest. */
  reachHz: number[];
  /** Samples of a frame that lie ahead of the hit. */
  ahead: number;
}

/** What both ways work with: records whose signals are brought to one unit each, `l` responses and behind them `m` forces. */
export interface Tools {
  records: readonly ModalRecord[];
  scales: number[][];
  l: number;
  m: number;
  rate: number;
  options: DrivenOptions;
  signal: CancelSignal;
  health: Health[];
  progress: Progress;
}
/** What both ways find: powers in groups, and what became of the hits. */
export interface Collected {
  groups: Powers[];
  hits: TriedHit[];
  taken: number;
  skipped: number;
  ahead: number;
  says: string[];
}

/** Samples at the end of an impulse response that hold what rings before its beginning: they belong to it, and say nothing of how it dies out. */
export const RINGS_BEFORE = 24;
