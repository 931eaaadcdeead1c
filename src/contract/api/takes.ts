import { z } from 'zod';
import { nameText } from '../name-text';
import { TakeFilter } from '../take-list';
import type { RecipeView, StudyView, TrailStep } from '../study';
import type { SealState, TakeView } from '../take';
import {
  Id,
  Made,
  Meaning,
  Settings,
  endpoints,
  flag,
  jsonObject,
  list,
  nothing,
  number,
  numbers,
  told,
} from './endpoint';

/** Takes, studies of them, and what leaves as a file. */
export const takes = endpoints({
  'GET /api/takes/[id]': {
    says: 'Everything about a take but its samples.',
    need: 'look',
    answer: told<TakeView>('The take.'),
  },
  'PATCH /api/takes/[id]': {
    says: 'Calls a take by another name.',
    need: 'take part',
    body: z.strictObject({ name: z.string().max(400) }),
    answer: told<unknown>('The name as it is now.'),
  },
  'GET /api/takes/[id]/at': {
    says: 'Values of signals at one or two instants, for cursors; or their uncertainty there.',
    need: 'look',
    query: z.object({
      signals: numbers,
      /** Instants, s from the start. */
      s: list(2, 40).pipe(z.array(number)),
      uncertainty: flag,
      as: Meaning,
    }),
    answer: z.array(z.array(z.number().nullable())),
  },
  'GET /api/takes/[id]/export': {
    says: 'A take in an open format: all its signals, or those that are named by their numbers.',
    need: 'look',
    query: z.object({ format: z.string().max(40).default('csv'), signals: numbers, options: jsonObject }),
    answer: { file: 'application/octet-stream' },
  },
  'GET /api/takes/[id]/report': {
    says: 'The report of a take as a PDF: with its usual strips, those that are named, or none; and some studies.',
    need: 'look',
    query: z.object({
      signals: z.union([z.literal('none').transform((): number[] => []), numbers]).optional(),
      studies: list(50),
    }),
    answer: { file: 'application/pdf' },
  },
  'GET /api/takes/[id]/seal': {
    says: 'Whether the take’s file is still what it was closed with.',
    need: 'look',
    answer: told<SealState>('What was found.'),
  },
  'GET /api/takes/[id]/window': {
    says: 'Extremes of a span: u32 length of the JSON head, the head, then for each signal its minima and maxima as float32.',
    need: 'look',
    query: z.object({ signals: numbers, from: number, to: number, width: number, as: Meaning }),
    answer: { bytes: 'application/octet-stream' },
  },
  'GET /api/takes/[id]/written': {
    says: 'The file that was written when the take ended.',
    need: 'look',
    answer: { file: 'text/csv' },
  },
  'GET /api/formats': {
    says: 'Open formats that takes are read from and written to.',
    need: 'look',
    answer: told<unknown>('Each with its options.'),
  },
  'GET /api/studies': {
    says: 'The studies of the job, without their figures.',
    need: 'look',
    answer: told<StudyView[]>('In the order in which they were made.'),
  },
  'POST /api/studies': {
    says: 'Begins a study.',
    need: 'take part',
    body: z.strictObject({
      kind: z.string().max(40),
      takeId: Id,
      takes: z.array(Id).min(1).max(200).optional(),
      /** Channels that are looked at: what takes their roles first. */
      shown: z.array(Id).max(5000).optional(),
      settings: Settings.optional(),
      name: nameText(80).optional(),
      /** Takes by a filter instead of one by one. */
      filter: TakeFilter.nullable().optional(),
      /** The study whose settings it tries in another way. */
      variantOf: Id.nullable().optional(),
    }),
    answer: told<StudyView>('The study, which runs on by itself.'),
  },
  'GET /api/studies/[id]': {
    says: 'A study without its figures.',
    need: 'look',
    answer: told<StudyView>('The study.'),
  },
  'PATCH /api/studies/[id]': {
    says: 'New settings or takes; with neither it is computed anew.',
    need: 'take part',
    body: z.strictObject({
      settings: Settings.default({}),
      takes: z.array(Id).min(1).max(200).optional(),
      filter: TakeFilter.nullable().optional(),
    }),
    answer: told<StudyView>('The study as it is now.'),
  },
  'DELETE /api/studies/[id]': { says: 'Takes a study away.', need: 'take part', answer: nothing },
  'POST /api/studies/[id]/cancel': {
    says: 'Ends the computation of a study.',
    need: 'take part',
    answer: nothing,
  },
  'POST /api/studies/[id]/marks': {
    says: 'Writes the spans that a study found onto the time axis of its take.',
    need: 'take part',
    answer: z.object({ written: z.number() }),
  },
  'GET /api/studies/[id]/result': {
    says: 'Figures and tables of a study with their arrays, as CBOR; of a very large result what is drawn of it.',
    need: 'look',
    answer: { bytes: 'application/cbor' },
  },
  'GET /api/studies/[id]/tables/[at]': {
    says: 'One table of a result with all its rows, by its number from 0.',
    need: 'look',
    answer: { bytes: 'text/csv' },
  },
  'GET /api/studies/[id]/trail': {
    says: 'Where a result comes from, back to the sensor.',
    need: 'look',
    answer: told<TrailStep[]>('From the study on.'),
  },
  'GET /api/recipes': {
    says: 'Studies that are kept by name without their takes, as they would be made of a take.',
    need: 'look',
    query: z.object({ take: Id }),
    answer: told<RecipeView[]>('With what the take lacks for them.'),
  },
  'POST /api/recipes': {
    says: 'Keeps the settings of a study by a name, for other takes.',
    need: 'take part',
    body: z.strictObject({ study: Id, name: nameText(80) }),
    answer: Made,
  },
  'DELETE /api/recipes/[id]': { says: 'Takes a recipe away.', need: 'take part', answer: nothing },
  'POST /api/studies/refresh': {
    says: 'Brings all studies up to date that are not.',
    need: 'take part',
    answer: z.object({ begun: z.number() }),
  },
});
