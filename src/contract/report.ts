import { z } from 'zod';
import { field, type Sentence } from '$core/sentence/sentence';
import { nameText } from './name-text';
import { TakeFilter } from './take-list';

/** Sizes of paper, upright, mm (ISO 216; ANSI/ASME Y14.1 for Letter). */
export const PAPER_SIZES = { A4: [210, 297], A3: [297, 420], Letter: [215.9, 279.4] } as const;
export type PaperSize = keyof typeof PAPER_SIZES;
export const DIRECTIONS = ['upright', 'across'] as const;

/** What blocks are placed by: lines so far apart, mm. */
export const GRID_MM = 5;
/** A tenth of a millimetre: finer than that nothing is placed. */
const TENTH = 10;
const mm = (least: number, most: number) =>
  z
    .number()
    .min(least)
    .max(most)
    .transform((v) => Math.round(v * TENTH) / TENTH);

export const Paper = z.strictObject({
  size: z.enum(Object.keys(PAPER_SIZES) as [PaperSize, ...PaperSize[]]),
  direction: z.enum(DIRECTIONS),
  marginMm: mm(0, 60),
});
export type Paper = z.infer<typeof Paper>;

/** Width and height of a page, mm. */
export function pageMm({
  size,
  direction,
}: Pick<Paper, 'size' | 'direction'>): [width: number, height: number] {
  const [a, b] = PAPER_SIZES[size];
  return direction === 'upright' ? [a, b] : [b, a];
}

export const Block = z.strictObject({
  id: z.string().min(1).max(40),
  kind: z.string().min(1).max(40),
  /** From the page’s left upper corner, mm. */
  x: mm(-50, 450),
  y: mm(-50, 450),
  w: mm(2, 450),
  h: mm(1, 450),
  settings: z.record(z.string().max(60), z.unknown()),
});
export type Block = z.infer<typeof Block>;

export const Page = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().max(60),
  blocks: z.array(Block).max(150),
});
export type Page = z.infer<typeof Page>;

/** What a report is: its paper, its pages, and what it is about. */
/** Settings of blocks by their kind. */
export const BlockSettings = z.record(z.string().max(40), z.record(z.string().max(60), z.unknown()));
export type BlockSettings = z.infer<typeof BlockSettings>;

export const ReportBody = z.strictObject({
  name: nameText(80),
  paper: Paper,
  pages: z.array(Page).min(1).max(60),
  /** Takes that it is run over: those that fit a filter, or the named ones; none of both: whichever it is shown for. */
  filter: TakeFilter.nullable(),
  takes: z.array(z.string().max(40)).max(200),
  /** Names of channels that its blocks mean by their ids: a take of another set-up has them under these. */
  called: z.record(z.string(), z.string()),
});
export type ReportBody = z.infer<typeof ReportBody>;

/** A report as the pages show it. `version` rises with each change. */
export interface ReportView extends ReportBody {
  id: string;
  version: number;
  /** What it is about, in words. */
  about: string;
  /** Takes that it is about now, the one that is shown first. */
  now: { id: string; name: string }[];
}

const line = (label: string) =>
  field(z.string().trim().max(200), { label, editor: 'text', none: 'nothing', help: 'In braces: page, pages, take, job, date, or the name of a fact.' }); // prettier-ignore
/** Faces that words of papers can be set in; they ship with the program. */
const TYPEFACES = ['Commissioner', 'Source Serif 4', 'Archivo Narrow'] as const;
export type Typeface = (typeof TYPEFACES)[number];
/** What every page of every report has. */
export const HouseStyle = z.strictObject({
  /** A picture that is kept. */
  logo: z.number().int().positive().nullable(),
  head: line('At the head'),
  foot: line('At the foot'),
  numbers: field(z.enum(['point', 'comma']), {
    label: 'Decimal sign',
    editor: 'choice',
    options: ['point', 'comma'],
  }),
  face: field(z.enum(TYPEFACES), { label: 'Typeface', editor: 'choice', options: TYPEFACES }),
  /** Of traces, in their order; null as the program has them. */
  colours: z
    .array(z.string().regex(/^#[0-9a-f]{6}$/i))
    .length(7)
    .nullable(),
});
export type HouseStyle = z.infer<typeof HouseStyle>;
export const houseStyleSentence: Sentence<typeof HouseStyle> = {
  schema: HouseStyle,
  template: () =>
    'Every page says {head} at its head and {foot} at its foot; numbers have a decimal {numbers}; words are set in {face}.',
};

/** What is drawn of a block in its own box, in points from its left upper corner. */
export interface PaintedBlock {
  id: string;
  svg: string;
  /** What is not as it should be: something that the take lacks, words that do not fit. */
  says: string | null;
}
