import { z } from 'zod';
import { REPORT_KINDS, type OutgoingState } from '../outgoing';
import { NamedSpreadsheet, Watched, type SpreadsheetView } from '../spreadsheet';
import { Id, Made, endpoints, list, nothing, told } from './endpoint';

const Takes = z.array(Id).max(1000);

/** What goes out of the house as files: spreadsheets, and whatever takes a while to be made. */
export const exchange = endpoints({
  'GET /api/spreadsheets': {
    says: 'How takes of this job are written as spreadsheets.',
    need: 'look',
    answer: told<SpreadsheetView[]>('In the order in which they were made.'),
  },
  'POST /api/spreadsheets': {
    says: 'Keeps another way to write a spreadsheet; without one a usual one.',
    need: 'take part',
    body: NamedSpreadsheet.partial(),
    answer: Made,
  },
  'PUT /api/spreadsheets/[id]': {
    says: 'Changes one.',
    need: 'take part',
    body: NamedSpreadsheet,
    answer: nothing,
  },
  'DELETE /api/spreadsheets/[id]': { says: 'Takes one away.', need: 'take part', answer: nothing },
  'GET /api/spreadsheets/[id]/file': {
    says: 'Takes as a spreadsheet, at once: those that are named, or the rows of a series that count with the series as a sheet.',
    need: 'look',
    query: z.object({ takes: list(1000), series: Id.optional() }),
    answer: { file: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet' },
  },
  'GET /api/watched': {
    says: 'What becomes of files that other programs put into the folder “watched” of the house.',
    need: 'look',
    answer: Watched,
  },
  'PUT /api/watched': {
    says: 'Changes that.',
    need: 'take part',
    body: Watched,
    answer: nothing,
  },
  'POST /api/outgoing': {
    says: 'Begins to make a file: takes as a spreadsheet, a report, or a take in an open format. It is taken from its own address once it is ready.',
    need: 'look',
    asks: true,
    body: z.discriminatedUnion('what', [
      z.strictObject({
        what: z.literal('spreadsheet'),
        spreadsheet: Id.optional(),
        takes: Takes.default([]),
        series: Id.optional(),
      }),
      z.strictObject({
        what: z.literal('report'),
        report: Id,
        takes: z.array(Id).max(200).default([]),
        as: z.enum(REPORT_KINDS),
        each: z.boolean().default(false),
      }),
      z.strictObject({
        what: z.literal('take'),
        take: Id,
        format: z.string().max(40),
        signals: z.array(z.number().int().min(0)).max(500).default([]),
        options: z.record(z.string().max(40), z.unknown()).default({}),
      }),
    ]),
    answer: told<OutgoingState>('Where it is.'),
  },
  'GET /api/outgoing/[id]': {
    says: 'How far a file is.',
    need: 'look',
    answer: told<OutgoingState>('Where it is.'),
  },
  'GET /api/outgoing/[id]/file': {
    says: 'A file that is ready.',
    need: 'look',
    answer: { file: 'application/octet-stream' },
  },
  'DELETE /api/outgoing/[id]': {
    says: 'Ends making a file; nothing of it stays.',
    need: 'look',
    asks: true,
    answer: nothing,
  },
});
