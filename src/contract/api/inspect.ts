import { z } from 'zod';
import { Making } from '$core/making/registry';
import { Mending } from '$core/mending/registry';
import { nameText } from '../name-text';
import { Drawing, type NamedDrawing } from '../drawing';
import { Series, type SeriesTable, type NamedSeries } from '../series';
import { VERDICTS, type TakeView } from '../take';
import { TakeFilter, type TakeLine } from '../take-list';
import { Id, Made, endpoints, jsonObject, list, nothing, number, told } from './endpoint';

/** A part of the list of takes, in its order. */
export interface FoundTakes {
  /** How many the job has. */
  all: number;
  /** Of those that were meant, in their order. */
  ids: string[];
  groups: { name: string; count: number }[];
  /** From `from` on, as many as were asked for. */
  takes: TakeLine[];
  from: number;
}
/** What there is among the takes of a job, for filters to be made of. */
export interface Offered {
  facts: Record<string, string[]>;
  tags: string[];
  folders: string[];
  plans: string[];
  channels: { name: string; unit: string; takes: number }[];
}
/** A small picture of a channel: extremes side by side over the take, 0 to 255 of its own range; null where it has none. */
export type StripPicture = { min: number[]; max: number[] } | null;

/** What lies between two instants of a signal. */
export interface BetweenRow {
  signal: number;
  count: number;
  missing: number;
  mean: number | null;
  standardDeviation: number | null;
  min: number | null;
  max: number | null;
  rms: number | null;
  /** Of the straight line between the values at both ends, a second. */
  slope: number | null;
}
/** Where a take is laid over the others. */
export interface AlignedTake {
  take: string;
  /** Instant of the take that lies on the common zero; null where it has none. */
  atS: number | null;
  /** Of a best fit. */
  coefficient: number | null;
  /** Why it has none. */
  fault: string | null;
}
/** What came of making signals in one take. */
export interface MadeIn {
  take: string;
  name: string;
  made: { channelId: string; name: string }[];
  /** Names of those that were there already. */
  known: string[];
  /** Why none were made. */
  fault: string | null;
}
export interface MendPreview {
  /** Samples that the mending changes. */
  changed: number;
  samples: number;
  /** How many other channels are computed anew from it. */
  follow: string[];
}
export interface ImportState {
  id: string;
  name: string;
  size: number;
  received: number;
  state: 'receiving' | 'reading' | 'done' | 'failed';
  /** Of what is read, 0 to 1. */
  share: number;
  takeId: string | null;
  fault: { what: string; where?: string; why?: string; next?: string } | null;
}

const seconds = z.number().min(-1e12).max(1e12);
const Takes = z.array(Id).min(1, 'Choose at least one take.').max(5000);
const Signals = z.array(z.number().int().min(0)).max(500);
const asks = <S extends z.ZodRawShape>(of: S) =>
  z
    .array(z.strictObject({ take: Id, ...of }))
    .min(1)
    .max(200);
const Span = { from: seconds, to: seconds };
const Recorded = z.boolean().default(false);

const ALIGNMENTS = ['start', 'clock', 'mark', 'crossing', 'best fit'] as const;

/** Takes as they are looked for, laid over each other, read, judged, mended and put in series. */
export const inspect = endpoints({
  'GET /api/takes': {
    says: 'Takes of the job by words and conditions, a part of the list in its order.',
    need: 'look',
    query: z.object({
      /** A filter as JSON: words, conditions. */
      filter: jsonObject.pipe(TakeFilter),
      order: z.string().max(100).default('newest'),
      group: z.string().max(100).default('nothing'),
      from: number.pipe(z.number().int().min(0)).default(0),
      count: number.pipe(z.number().int().min(0).max(5000)).default(100),
    }),
    answer: told<FoundTakes>('The part, and what the whole consists of.'),
  },
  'GET /api/takes/offered': {
    says: 'What filters can be made of: facts with their values, tags, folders, plans, channels.',
    need: 'look',
    answer: told<Offered>('What there is.'),
  },
  'POST /api/takes/views': {
    says: 'Everything about some takes but their samples; of one that cannot be read, why.',
    need: 'look',
    asks: true,
    body: z.strictObject({ takes: z.array(Id).min(1).max(100), recorded: Recorded }),
    answer: told<(TakeView | { id: string; name: string; fault: ImportState['fault'] })[]>('In their order.'),
  },
  'POST /api/judgements': {
    says: 'Says what one thinks of some takes: good, doubtful or void, with the reason.',
    need: 'take part',
    body: z.strictObject({
      takes: Takes,
      verdict: z.enum(VERDICTS),
      reason: z.string().max(400).default(''),
    }),
    answer: nothing,
  },
  'POST /api/tags': {
    says: 'Puts tags on takes and takes others off.',
    need: 'take part',
    body: z.strictObject({
      takes: Takes,
      put: z.array(nameText(40)).max(20).default([]),
      off: z.array(z.string().max(40)).max(20).default([]),
    }),
    answer: nothing,
  },
  'GET /api/bin': {
    says: 'What lies in the bin, and how much disk it holds.',
    need: 'look',
    answer: told<{ takes: TakeLine[]; bytes: number }>('The takes.'),
  },
  'POST /api/bin': {
    says: 'Puts takes into the bin, or takes them out of it again.',
    need: 'take part',
    body: z.strictObject({ takes: Takes, out: z.boolean().default(false) }),
    answer: nothing,
  },
  'DELETE /api/bin': {
    says: 'Deletes for good what lies in the bin.',
    need: 'controls',
    answer: z.object({ takes: z.number(), bytes: z.number() }),
  },
  'POST /api/takes/[id]/notes': {
    says: 'Writes a note at a moment or over a span of a take; in the place of an earlier one, which is kept.',
    need: 'take part',
    body: z.strictObject({
      atS: seconds,
      untilS: seconds.nullable().default(null),
      says: z.string().max(400),
      replaces: z.number().int().nullable().default(null),
    }),
    answer: nothing,
  },
  'GET /api/strips': {
    says: 'Small pictures of a channel of some takes.',
    need: 'look',
    query: z.object({ takes: list(200), channel: z.string().max(400) }),
    answer: told<Record<string, StripPicture>>('By take.'),
  },
  'POST /api/windows': {
    says: 'Extremes of spans of several takes, for drawing.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      asks: asks({ signals: Signals, ...Span }),
      width: z.number().int().min(1).max(4000),
      recorded: Recorded,
    }),
    answer: { bytes: 'application/octet-stream' },
  },
  'POST /api/readings': {
    says: 'Values of signals of several takes at instants; or their expanded uncertainty there.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      asks: asks({ signals: Signals, s: z.array(seconds).max(40) }),
      uncertainty: z.boolean().default(false),
      recorded: Recorded,
    }),
    answer: told<(number | null)[][][]>('Take by take, instant by instant, signal by signal.'),
  },
  'POST /api/between': {
    says: 'Statistics of what lies between two instants.',
    need: 'look',
    asks: true,
    body: z.strictObject({ asks: asks({ signals: Signals, ...Span }), recorded: Recorded }),
    answer: told<BetweenRow[][]>('Take by take.'),
  },
  'GET /api/takes/[id]/near': {
    says: 'The highest or lowest sample, or the crossing of a level, within a span of a signal.',
    need: 'look',
    query: z.object({
      signal: number,
      from: number,
      to: number,
      what: z.enum(['peak', 'valley', 'crossing']),
      level: number.optional(),
      /** Where several are found, the one nearest to it; else the farthest out. */
      at: number.optional(),
    }),
    answer: z.object({ s: z.number().nullable(), value: z.number().nullable() }),
  },
  'GET /api/takes/[id]/peak': {
    says: 'The next peak of a signal after an instant, or before it where until is earlier.',
    need: 'look',
    query: z.object({
      signal: number,
      at: number,
      until: number,
      /** Share of the range in between that it has to stand out by. */
      least: number.pipe(z.number().min(0).max(1)).default(0.02),
    }),
    answer: z.object({ s: z.number().nullable() }),
  },
  'POST /api/pairs': {
    says: 'Signals against another one over a span, thinned so that no turn is lost, for drawing one over the other.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      asks: asks({ x: z.number().int().min(0), signals: Signals, ...Span }),
      points: z.number().int().min(10).max(20_000),
      recorded: Recorded,
    }),
    answer: { bytes: 'application/octet-stream' },
  },
  'POST /api/spectra': {
    says: 'Averaged spectra of spans of several takes, as power spectral density.',
    need: 'look',
    asks: true,
    body: z.strictObject({ asks: asks({ signals: Signals, ...Span }), lines: z.number().int().min(8).max(1 << 16), recorded: Recorded }), // prettier-ignore
    answer: { bytes: 'application/octet-stream' },
  },
  'POST /api/align': {
    says: 'Where takes are laid over each other: by a mark, by the crossing of a level, by the best fit of a channel.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      takes: z.array(Id).min(1).max(100),
      by: z.enum(ALIGNMENTS),
      /** Of a mark: the words it begins with. */
      mark: z.string().max(400).default(''),
      channel: z.string().max(400).default(''),
      level: z.number().min(-1e15).max(1e15).default(0),
      hysteresis: z.number().min(0).max(1e15).default(0),
      way: z.enum(['rises', 'falls']).default('rises'),
    }),
    answer: told<AlignedTake[]>(
      'In their order; of a best fit the first one is what the others are laid over.',
    ),
  },
  'GET /api/drawings': {
    says: 'Ways to look at takes that are kept by name.',
    need: 'look',
    answer: told<NamedDrawing[]>('By name.'),
  },
  'PUT /api/drawings': {
    says: 'Keeps a way to look at takes under a name; what had that name before is in the logbook.',
    need: 'take part',
    body: z.strictObject({ name: nameText(80), drawing: Drawing }),
    answer: Made,
  },
  'DELETE /api/drawings/[id]': {
    says: 'Forgets a kept way to look at takes.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/series': {
    says: 'The series of the job.',
    need: 'look',
    answer: told<NamedSeries[]>('By name.'),
  },
  'POST /api/series': {
    says: 'Makes a series: takes as rows by a filter, results as columns.',
    need: 'take part',
    body: z.strictObject({ name: nameText(80), series: Series }),
    answer: Made,
  },
  'PATCH /api/series/[id]': {
    says: 'Another name, filter or other columns of a series.',
    need: 'take part',
    body: z.strictObject({ name: nameText(80).optional(), series: Series.optional() }),
    answer: nothing,
  },
  'DELETE /api/series/[id]': {
    says: 'Takes a series away; its takes stay.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/series/[id]/table': {
    says: 'A series as a table, with the statistics of what counts.',
    need: 'look',
    answer: told<SeriesTable>('Row by row.'),
  },
  'GET /api/series/[id]/export': {
    says: 'A series as a table for spreadsheets.',
    need: 'look',
    answer: { file: 'text/csv' },
  },
  'POST /api/series/[id]/words': {
    says: 'Says whether a take counts in a series, and why.',
    need: 'take part',
    body: z.strictObject({ take: Id, counts: z.boolean(), reason: z.string().max(400).default('') }),
    answer: nothing,
  },
  'POST /api/takes/[id]/mends': {
    says: 'Mends a channel of a take beside what was recorded.',
    need: 'take part',
    body: z.strictObject({
      signal: z.number().int().min(0),
      mending: Mending,
      why: z.string().trim().min(3, 'Say why.').max(400),
    }),
    answer: told<{ changed: number; followed: string[]; left: string[] }>('What was changed.'),
  },
  'POST /api/takes/[id]/mends/preview': {
    says: 'What a mending would change, without doing it: a head (changed, samples, follow), then minima and maxima of a span before and after.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      signal: z.number().int().min(0),
      mending: Mending,
      ...Span,
      width: z.number().int().min(10).max(4000),
    }),
    answer: { bytes: 'application/octet-stream' },
  },
  'DELETE /api/takes/[id]/mends/[mend]': {
    says: 'Takes a mending back: the channel is read without it.',
    need: 'take part',
    answer: told<{ followed: string[]; left: string[] }>('What followed it.'),
  },
  'POST /api/takes/made': {
    says: 'Makes signals of takes (filtered, integrated, by a formula …) and keeps them as channels beside what was recorded.',
    need: 'take part',
    body: z.strictObject({
      takes: z.array(Id).min(1, 'Choose at least one take.').max(2000),
      making: Making,
    }),
    answer: told<MadeIn[]>('What was made in each take.'),
  },
  'POST /api/takes/[id]/made/preview': {
    says: 'What would be made, without doing it: a head, then minima and maxima over a span of each source and each result.',
    need: 'look',
    asks: true,
    body: z.strictObject({ making: Making, ...Span, width: z.number().int().min(10).max(4000) }),
    answer: { bytes: 'application/octet-stream' },
  },
  'DELETE /api/takes/[id]/made/[signal]': {
    says: 'Takes a signal that was made out of a take again.',
    need: 'take part',
    answer: nothing,
  },
  'POST /api/imports': {
    says: 'Begins to bring a file in as a take; its bytes follow piece by piece.',
    need: 'take part',
    body: z.strictObject({
      name: z.string().min(1).max(400),
      size: z.number().int().min(1, 'The file is empty.').max(1e12),
      format: z.string().max(40).optional(),
      options: z.record(z.string().max(40), z.unknown()).default({}),
    }),
    answer: told<ImportState>('Where it is.'),
  },
  'PUT /api/imports/[id]': {
    says: 'The next piece of a file; with the last one it is read.',
    need: 'take part',
    sends: 'file',
    query: z.object({ at: number }),
    answer: told<ImportState>('Where it is.'),
  },
  'GET /api/imports/[id]': {
    says: 'How far a file is.',
    need: 'look',
    answer: told<ImportState>('Where it is.'),
  },
  'DELETE /api/imports/[id]': {
    says: 'Ends bringing a file in; nothing of it stays.',
    need: 'take part',
    answer: nothing,
  },
});
