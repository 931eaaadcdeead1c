import { z } from 'zod';
import type { SeriesStatistics } from '$core/statistics/series';
import { Measure } from '$core/measures/registry';
import { ALL_TAKES, TakeFilter } from './take-list';

/** What stands in a column of a series. */
export const SeriesColumn = z.discriminatedUnion('of', [
  z.strictObject({ of: z.literal('fact'), name: z.string().max(200) }),
  /** A finding of the studies of one name on each take. */
  z.strictObject({ of: z.literal('finding'), study: z.string().max(80), label: z.string().max(200) }),
  z.strictObject({
    of: z.literal('measure'),
    measure: Measure,
    title: z.string().trim().max(80).default(''),
  }),
]);
export type SeriesColumn = z.infer<typeof SeriesColumn>;

/** Takes as rows, results as columns: which takes is said by a filter, so that a new one joins by itself. */
export const Series = z.strictObject({
  filter: TakeFilter.default(ALL_TAKES),
  order: z.string().max(100).default('oldest'),
  columns: z.array(SeriesColumn).max(40).default([]),
});
export type Series = z.infer<typeof Series>;

export interface NamedSeries {
  id: string;
  name: string;
  series: Series;
}

/** What somebody said of a row. */
export interface SeriesWord {
  at: number;
  by: string;
  counts: boolean;
  reason: string;
}

export interface SeriesCell {
  /** A number, words, or null for nothing. */
  value: number | string | null;
  /** Where it stands in the take, s. */
  atS: number | null;
  /** Why there is none. */
  fault: string | null;
}

export interface SeriesRow {
  take: string;
  number: number;
  name: string;
  cells: SeriesCell[];
  counts: boolean;
  /** Why it does not count, or does in spite of a void verdict; '' where nobody said anything. */
  reason: string;
  by: string;
  /** All that was said of it, the last one last. */
  words: SeriesWord[];
}

export interface SeriesColumnHead {
  title: string;
  unit: string;
  /** The whole sentence of a measure. */
  says: string;
  /** Of what counts; null for a column of words. */
  statistics: SeriesStatistics | null;
  /** A hint by Grubbs' test: which take lies farthest out, and how far that may be by chance. */
  hint: { take: string; name: string; distance: number; critical5: number; critical1: number } | null;
}

export interface SeriesTable {
  id: string;
  name: string;
  series: Series;
  /** The filter in words. */
  says: string;
  columns: SeriesColumnHead[];
  rows: SeriesRow[];
}
