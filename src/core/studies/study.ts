import type { z } from 'zod';
import type { Sentence } from '../sentence/sentence';

/** A signal a study reads: values in engineering units, NaN in gaps, any part at a time. */
export interface SignalReader {
  name: string;
  unit: string;
  /** Position in the trace palette, passed on to its lines: a channel keeps its colour everywhere. */
  colour?: number;
  sampleRateHz: number;
  /** Seconds from the start of the take to the first sample. */
  startS: number;
  length: number;
  /** Samples [first, first + count) in a buffer that is valid until the next call. */
  read(first: number, count: number): Float32Array;
  /** Expanded uncertainty (about 95 %) of the mean level of a span, in the unit; null where the calibration does not say. */
  uncertainty?(first: number, count: number): number | null;
}

export interface Axis {
  label: string;
  unit: string;
  scale: 'linear' | 'logarithmic';
}
export interface Figure {
  title: string;
  x: Axis;
  y: Axis;
  series: { name: string; unit: string; colour?: number; x: number[]; y: number[] }[];
}
export interface ResultTable {
  title: string;
  columns: { label: string; unit?: string; numeric: boolean }[];
  rows: (string | number | null)[][];
}
/** A number worth quoting. */
export interface Finding {
  label: string;
  value: number;
  unit: string;
  note?: string;
}
/** What a study brings, in a form that any page, table, report or export can show. */
export interface StudyResult {
  findings: Finding[];
  figures: Figure[];
  tables: ResultTable[];
}

/** Told about the share done, 0 to 1. */
export type Progress = (share: number) => void;

/** What tells a long computation to stop (an AbortSignal is one). */
export interface CancelSignal {
  readonly aborted: boolean;
}

/** The socket: everything the application knows of a kind of study. */
export interface StudyKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  /** One line for the list of kinds. */
  purpose: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  /** @throws FarrierError `bad_input` where the settings do not suit the inputs, `cancelled` when the signal says so */
  run(inputs: SignalReader[], settings: z.infer<S>, progress: Progress, signal: CancelSignal): StudyResult;
}

/** Samples that are read at a time: bounds the memory of every study. */
export const CHUNK = 1 << 16;
