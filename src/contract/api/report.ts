import { z } from 'zod';
import type { OutgoingState } from '../outgoing';
import { BlockSettings, HouseStyle, ReportBody, type PaintedBlock, type ReportView } from '../report';
import { Id, endpoints, list, nothing, told } from './endpoint';

/** Reports: pages with blocks, drawn and printed for takes. */
export const report = endpoints({
  'GET /api/reports': {
    says: 'All reports of the job, and what a new one can begin with.',
    need: 'look',
    answer: told<{ reports: ReportView[]; templates: { name: string; title: string; says: string }[] }>('In the order in which they were made.'), // prettier-ignore
  },
  'GET /api/reports/style': {
    says: 'What every page of every report has: words at head and foot, a logo, the decimal sign.',
    need: 'look',
    answer: HouseStyle,
  },
  'PUT /api/reports/style': {
    says: 'Changes what every page has.',
    need: 'take part',
    body: HouseStyle,
    answer: nothing,
  },
  'POST /api/reports': {
    says: 'Makes a report from a template or from another one.',
    need: 'take part',
    body: z.strictObject({
      template: z.string().max(40).optional(),
      from: Id.optional(),
      take: Id.optional(),
      /** What blocks of a kind are set to, besides what the template has. */
      settings: BlockSettings.optional(),
    }),
    answer: told<ReportView>('The report.'),
  },
  'GET /api/reports/[id]': {
    says: 'One report.',
    need: 'look',
    answer: told<ReportView>('Its pages and what it is about.'),
  },
  'PUT /api/reports/[id]': {
    says: 'Writes a report as it stands in its editor. Refused where somebody has changed it since that version.',
    need: 'take part',
    body: z.strictObject({ version: z.number().int(), body: ReportBody, shown: Id.optional() }),
    answer: told<ReportView>('The report as it is now.'),
  },
  'DELETE /api/reports/[id]': {
    says: 'Takes a report away; it can be brought back.',
    need: 'take part',
    answer: nothing,
  },
  'POST /api/reports/[id]/restore': {
    says: 'Brings a report back that was taken away.',
    need: 'take part',
    answer: nothing,
  },
  'GET /api/reports/[id]/file': {
    says: 'A report as a file that can be brought into another house: pages, style and pictures.',
    need: 'look',
    answer: { file: 'application/json' },
  },
  'POST /api/reports/file': {
    says: 'Brings a report in that came as such a file; with the style of its house where that is wanted.',
    need: 'take part',
    sends: 'file',
    query: z.object({ style: z.enum(['yes', 'no']).default('no') }),
    answer: told<ReportView>('The report.'),
  },
  'POST /api/reports/[id]/drawn': {
    says: 'Draws the pages of a report for a take, as they print: each block as an SVG of its size.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      body: ReportBody,
      take: Id.nullable(),
      /** Ids of blocks; all where none are named. */
      only: z.array(z.string().max(40)).max(200).optional(),
    }),
    answer: told<{ pages: { id: string; frame: string; blocks: PaintedBlock[] }[]; values: { name: string; says: string }[] }>('By page, and the values that words can name.'), // prettier-ignore
  },
  'GET /api/reports/[id]/pdf': {
    says: 'Prints a report over some takes, one after the other.',
    need: 'look',
    query: z.object({ takes: list(200) }),
    answer: { file: 'application/pdf' },
  },
  'GET /api/reports/[id]/slides': {
    says: 'A report over some takes as slides (PPTX), a page each: charts and tables can be edited there.',
    need: 'look',
    query: z.object({ takes: list(200) }),
    answer: { file: 'application/vnd.openxmlformats-officedocument.presentationml.presentation' },
  },
  'GET /api/reports/[id]/page': {
    says: 'A report over some takes as one HTML file that stands alone: charts can be read by pointer and by keys.',
    need: 'look',
    query: z.object({ takes: list(200) }),
    answer: { file: 'text/html' },
  },
  'POST /api/reports/[id]/into': {
    says: 'Begins to put a report’s pages into a PDF or PPTX that is sent: at its end, or in the place of those that it has of this report. What else it has stays, page numbers run on. Taken from /api/outgoing once it is ready.',
    need: 'look',
    asks: true,
    sends: 'file',
    query: z.object({
      takes: list(200),
      as: z.enum(['pdf', 'slides']),
      how: z.enum(['append', 'replace']),
    }),
    answer: told<OutgoingState>('Where it is.'),
  },
});
