import type { z } from 'zod';
import type { Figure } from '../figures/figure';
import { tablesOf, type Cell, type Column, type Table } from '../figures/table';
import type { Sampled } from '../samples/sampled';
import type { Sentence } from '../sentence/sentence';

/** A table that no figure holds. */
export interface ResultTable {
  title: string;
  columns: readonly Column[];
  rows: Cell[][];
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
  /** Parts of the take that it found, s from its start: they can be written onto its time axis. */
  spans?: { fromS: number; toS: number; says: string }[];
  /** Too large to be sent whole: what is drawn and listed are the extremes of its curves and the first rows of its tables; files that are saved hold all. */
  thinned?: boolean;
}

/** All tables of a result: its own, then the numbers of its figures. */
export const resultTables = ({ tables, figures }: Pick<StudyResult, 'tables' | 'figures'>): Table[] => [
  ...tables.map(({ title, columns, rows }) => ({
    title,
    columns,
    length: rows.length,
    row: (i: number) => rows[i],
  })),
  ...figures.flatMap(tablesOf),
];

/** Told about the share done, 0 to 1. */
export type Progress = (share: number) => void;

/** What tells a long computation to stop (an AbortSignal is one). */
export interface CancelSignal {
  readonly aborted: boolean;
}

/** What a study takes as what. The label and the help of a role are those of its field in the settings. */
export interface Role {
  /** Field of the settings that names the signals: of editor “channel” for one, “channels” for several. */
  key: string;
  takes: 'one' | 'several';
  /** Several: at most so many. None named means all that suit. */
  most?: number;
  /** Unit that the signals’ must convert into. */
  unit?: string;
  /** Real (1) or complex (2) samples; real by default. */
  width?: 1 | 2;
  /** Of one: the study does without it, too. */
  optional?: boolean;
  /** Optional, and left empty until somebody chooses one. */
  byHand?: boolean;
  /** Of several: those that are chosen by themselves have the sample rate of what stands in this role. */
  like?: string;
}

/** What one wants to know, as the list of kinds is arranged. */
export const QUESTIONS = [
  'How large is it?',
  'How long, how often at which level?',
  'How much life does it use?',
  'Which frequencies?',
  'What follows what?',
  'What happens when?',
] as const;
export type Question = (typeof QUESTIONS)[number];

/** A small drawing of what a study brings, in shares of its box: heights of lines and bars from 0 to 1, one step apart. */
export interface Sketch {
  lines?: readonly (readonly number[])[];
  /** Behind: what it is made from. */
  behind?: readonly number[];
  bars?: readonly number[];
  points?: readonly (readonly [x: number, y: number])[];
  /** Rows from below, each from 0 to 1. */
  heat?: readonly (readonly number[])[];
}

/** A take as a study sees it: its signals by their role. */
export interface TakeInputs {
  id: string;
  name: string;
  facts: Record<string, string>;
  durationS: number;
  signals: Record<string, Sampled[]>;
}

/** The socket: everything the application knows of a kind of study. */
export interface StudyKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  /** One line for the list of kinds. */
  purpose: string;
  /** How its numbers are computed, and by which standard or paper. */
  method: readonly { says: string; source: string }[];
  asks: Question;
  sketch: Sketch;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  roles: readonly Role[];
  /** The role whose signals have nothing to do with each other: what is found of some and of the others can be put together. */
  apart?: string;
  /** How many takes it compares; one where it does not say. */
  takes?: { least: number; most: number };
  /** @throws FarrierError `bad_input` where the settings do not suit the inputs, `cancelled` when the signal says so */
  run(takes: TakeInputs[], settings: z.infer<S>, progress: Progress, signal: CancelSignal): StudyResult;
}

/** Samples that are read at a time: bounds the memory of every study. */
export const CHUNK = 1 << 16;
