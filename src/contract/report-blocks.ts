import { z } from 'zod';
import { CHART_FORMS } from '$core/figures/forms';
import { field, type Sentence } from '$core/sentence/sentence';

/** What can stand on a page: its settings as a sentence, and how large it is as it comes, mm. What it draws is in `service/report/blocks`. */
export interface BlockKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  /** One line for the list of what can be put on a page. */
  says: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  size: readonly [w: number, h: number];
  /** Its words are written in a field of their own. */
  words?: boolean;
}

const channels = field(z.array(z.string().max(40)).max(12), {
  label: 'Channels',
  editor: 'channels',
  counted: { beyond: 3, as: 'channels' },
  none: 'the first three channels',
  help: 'None chosen means the first three that are measured, one of each group.',
});
const seconds = (label: string, none?: string) =>
  field(none ? z.number().min(0).max(1e9).nullable() : z.number().min(0).max(1e9), { label, editor: 'number', unit: 's', none }) as z.ZodType; // prettier-ignore
const caption = field(z.string().trim().max(200), { label: 'Caption', editor: 'text', none: 'none' });
/** By name: each take that the report is run over has its own of it. */
const study = field(z.string().trim().max(120), {
  label: 'Study',
  editor: 'choice',
  options: { ask: 'study', free: true },
  none: 'the first study',
  help: 'By its name: of each take that the report is run over its own study of that name.',
});
const most = field(z.number().int().min(1).max(500), { label: 'At most', editor: 'number' });

export const AXES = [
  'each with its own axis, all at the left',
  'each with its own axis, left and right in turn',
  'one under the other',
  'on one axis',
] as const;
const SHOWN = ['shown', 'left out'] as const;

const kind = <S extends z.ZodObject>(of: BlockKind<S>): BlockKind<S> => of;

/** Colours of traces by their names, in the order of the palette. */
export const TRACE_NAMES = ['plum', 'teal', 'ochre', 'blue', 'green', 'rose', 'brown'] as const;
const LOOK_COLOURS = ['its own colour', ...TRACE_NAMES] as const;
const LOOK_LINES = ['as it comes', 'full', 'dashed', 'dotted'] as const;
const LOOK_WEIGHTS = ['light', 'usual', 'bold'] as const;
const end = (label: string) => field(z.number().min(-1e15).max(1e15).nullable(), { label, editor: 'number', none: 'as it comes' }); // prettier-ignore
/** How a curve of a chart looks. */
export const CurveSetting = z.strictObject({
  label: field(z.string().trim().max(60), { label: 'Name', editor: 'text', none: 'as its channel' }),
  from: end('Lower end of its axis'),
  to: end('Upper end of its axis'),
  colour: field(z.enum(LOOK_COLOURS), { label: 'Colour', editor: 'choice', options: LOOK_COLOURS }),
  line: field(z.enum(LOOK_LINES), { label: 'Line', editor: 'choice', options: LOOK_LINES }),
  weight: field(z.enum(LOOK_WEIGHTS), { label: 'Weight', editor: 'choice', options: LOOK_WEIGHTS }),
});
export type CurveSetting = z.infer<typeof CurveSetting>;
export const PLAIN_CURVE: CurveSetting = { label: '', from: null, to: null, colour: 'its own colour', line: 'as it comes', weight: 'usual' }; // prettier-ignore
export const curveSentence: Sentence<typeof CurveSetting> = {
  schema: CurveSetting,
  template: () => 'is called {label}, its axis from {from} to {to}; {colour}, line {line}, weight {weight}.',
};
export const NAMES = ['shown', 'at the lines', 'left out'] as const;
/** What stands for a part of the time, where a form draws parts. */
const PART_OF = ['mean', 'highest', 'lowest'] as const;

const chartSchema = z.strictObject({
  channels,
  from: seconds('From'),
  to: seconds('To', 'the end'),
  form: field(z.enum(CHART_FORMS), { label: 'Drawn as', editor: 'choice', options: CHART_FORMS }),
  parts: field(z.number().int().min(1).max(400), { label: 'Parts', editor: 'number', help: 'Equal parts of the time, a bar or a cell for each.' }), // prettier-ignore
  of: field(z.enum(PART_OF), { label: 'Of each part', editor: 'choice', options: PART_OF }),
  axes: field(z.enum(AXES), { label: 'Axes', editor: 'choice', options: AXES }),
  scale: field(z.enum(['linear', 'logarithmic']), {
    label: 'Scales',
    editor: 'choice',
    options: ['linear', 'logarithmic'],
  }),
  grid: field(z.enum(['from the first', 'none']), {
    label: 'Lines across',
    editor: 'choice',
    options: ['from the first', 'none'],
  }),
  marks: field(z.enum(SHOWN), { label: 'Marks of the take', editor: 'choice', options: SHOWN }),
  names: field(z.enum(NAMES), { label: 'Names', editor: 'choice', options: NAMES }),
  text: field(z.number().min(4).max(20), { label: 'Letters', editor: 'number', unit: 'pt' }),
  caption,
  /** By the ids of channels. */
  looks: z.record(z.string().max(40), CurveSetting.partial()),
});
/** How a chart says what it draws as what. */
const drawnAs = ({ form, axes }: z.infer<typeof chartSchema>): string => {
  const others = 'marks of the take {marks}, names {names}, letters of {text}. Caption {caption}.';
  const grid = axes === AXES[2] ? '' : ', lines across {grid}';
  switch (form) {
    case 'rows of colour':
      return 'Draw {channels} from {from} to {to} as {form}, of each of {parts} parts the {of}; letters of {text}. Caption {caption}.';
    case 'against the first of them':
      return 'Draw {channels} from {from} to {to}, {form}, {axes}; scales {scale}, lines across {grid}, names {names}, letters of {text}. Caption {caption}.';
    case 'bars':
      return `Draw {channels} over time from {from} to {to} as {form}, of each of {parts} parts the {of}, {axes}; scales {scale}${grid}, ${others}`;
    default:
      return `Draw {channels} over time from {from} to {to} as {form}, {axes}; scales {scale}${grid}, ${others}`;
  }
};
const chart = kind({
  kind: 'chart',
  title: 'Chart',
  says: 'lines, steps, bars, one against another, rows of colour',
  sentence: { schema: chartSchema, template: drawnAs },
  defaults: {
    channels: [],
    from: 0,
    to: null,
    form: 'lines',
    parts: 24,
    of: 'mean',
    axes: AXES[0],
    scale: 'linear',
    grid: 'from the first',
    marks: 'shown',
    names: 'shown',
    text: 7.5,
    caption: '',
    looks: {},
  } as z.infer<typeof chartSchema>,
  size: [180, 80],
});

const figureSchema = z.strictObject({
  study,
  figure: field(z.string().max(120), {
    label: 'Figure',
    editor: 'choice',
    options: { ask: 'figure', free: true },
    none: 'its first figure',
  }),
  caption,
});
const figure = kind({
  kind: 'figure',
  title: 'Figure of a study',
  says: 'lines, steps, bars, heat: as the study draws it',
  sentence: { schema: figureSchema, template: () => 'Draw {figure} of {study}. Caption {caption}.' },
  defaults: { study: '', figure: '', caption: '' },
  size: [180, 75],
});

const findingsSchema = z.strictObject({ study, most });
const findings = kind({
  kind: 'findings',
  title: 'Findings',
  says: 'of a study, each with what stands beside it',
  sentence: { schema: findingsSchema, template: () => 'What {study} found, at most {most} lines.' },
  defaults: { study: '', most: 12 },
  size: [180, 40],
});

const tableSchema = z.strictObject({
  study,
  table: field(z.string().max(120), {
    label: 'Table',
    editor: 'choice',
    options: { ask: 'table', free: true },
    none: 'its first table',
  }),
  most,
});
const table = kind({
  kind: 'table',
  title: 'Table',
  says: 'results of a study, line by line',
  sentence: { schema: tableSchema, template: () => '{table} of {study}, at most {most} rows.' },
  defaults: { study: '', table: '', most: 30 },
  size: [180, 60],
});

const COLUMNS = ['unit and rate', 'sensor and settings', 'calibration'] as const;
const channelsSchema = z.strictObject({
  channels: field(z.array(z.string().max(40)).max(200), {
    label: 'Channels',
    editor: 'channels',
    help: 'None chosen means all.',
  }),
  with: field(z.array(z.enum(COLUMNS)), {
    label: 'With',
    editor: 'several',
    options: COLUMNS,
    none: 'nothing beside',
  }),
});
const channelList = kind({
  kind: 'channels',
  title: 'Channels',
  says: 'with sensors, settings and calibrations at the time',
  sentence: { schema: channelsSchema, template: () => 'A list of {channels} with {with}.' },
  defaults: { channels: [], with: [...COLUMNS] } as z.infer<typeof channelsSchema>,
  size: [180, 80],
});

const takesSchema = z.strictObject({
  facts: field(z.array(z.string().max(60)).max(12), { label: 'Facts', editor: 'names', none: 'no facts' }),
  study,
  most,
});
const takes = kind({
  kind: 'takes',
  title: 'Takes beside each other',
  says: 'a line for each take, with facts and findings',
  sentence: {
    schema: takesSchema,
    template: () =>
      'A line for each take of this report with {facts} and what {study} found, at most {most}.',
  },
  defaults: { facts: [], study: '', most: 40 },
  size: [180, 80],
});

const wordsSchema = z.strictObject({
  text: field(z.string().max(8000), { label: 'Words', editor: 'text', none: 'no words yet' }),
  size: field(z.number().min(5).max(60), { label: 'Size', editor: 'number', unit: 'pt' }),
});
const words = kind({
  kind: 'words',
  title: 'Words',
  says: 'headings, lists, values that are put in by name: {take}',
  sentence: { schema: wordsSchema, template: () => 'Words of {size}, written below.' },
  defaults: { text: '', size: 9.5 },
  size: [180, 25],
  words: true,
});

const factsSchema = z.strictObject({
  columns: field(z.number().int().min(1).max(6), { label: 'Columns', editor: 'number' }),
});
const facts = kind({
  kind: 'facts',
  title: 'Facts',
  says: 'what is known of the take',
  sentence: { schema: factsSchema, template: () => 'The facts of the take in {columns} columns.' },
  defaults: { columns: 4 },
  size: [180, 30],
});

const methodSchema = z.strictObject({
  study: field(z.string().trim().max(120), {
    label: 'Study',
    editor: 'choice',
    options: { ask: 'study', free: true },
    none: 'no study',
  }),
});
const method = kind({
  kind: 'method',
  title: 'Method',
  says: 'how it was measured and computed, written by itself',
  sentence: {
    schema: methodSchema,
    template: () => 'How the take was recorded, and how {study} was computed.',
  },
  defaults: { study: '' },
  size: [180, 30],
});

const notesSchema = z.strictObject({ most });
const notes = kind({
  kind: 'notes',
  title: 'Logbook of the take',
  says: 'marks and events with their times',
  sentence: { schema: notesSchema, template: () => 'What was noted during the take, at most {most} lines.' },
  defaults: { most: 15 },
  size: [180, 40],
});

const ruleSchema = z.strictObject({
  weight: field(z.number().min(0.1).max(10), { label: 'Weight', editor: 'number', unit: 'pt' }),
  colour: field(z.enum(['grey', 'ink', 'plum']), { label: 'Colour', editor: 'choice', options: ['grey', 'ink', 'plum'] }), // prettier-ignore
});
const rule = kind({
  kind: 'rule',
  title: 'Line',
  says: 'across its box, or down it where that is higher than wide',
  sentence: { schema: ruleSchema, template: () => 'A {colour} line of {weight}.' },
  defaults: { weight: 0.7, colour: 'grey' } as z.infer<typeof ruleSchema>,
  size: [180, 5],
});

const pageNumberSchema = z.strictObject({});
const pageNumber = kind({
  kind: 'page',
  title: 'Page number',
  says: 'of how many there are',
  sentence: { schema: pageNumberSchema, template: () => 'The number of the page, of how many.' },
  defaults: {},
  size: [20, 5],
});

const pictureSchema = z.strictObject({
  picture: field(z.number().int().positive().nullable(), {
    label: 'Picture',
    editor: 'number',
    none: 'none yet',
  }),
  caption,
});
const picture = kind({
  kind: 'picture',
  title: 'Picture',
  says: 'a photograph or drawing, kept within the report',
  sentence: { schema: pictureSchema, template: () => 'The picture that is chosen below. Caption {caption}.' },
  defaults: { picture: null, caption: '' } as z.infer<typeof pictureSchema>,
  size: [80, 60],
}); // prettier-ignore

const seriesSchema = z.strictObject({
  series: field(z.string().trim().max(120), {
    label: 'Series',
    editor: 'choice',
    options: { ask: 'series', free: true },
    none: 'the first series',
  }),
  statistics: field(z.enum(SHOWN), { label: 'Statistics', editor: 'choice', options: SHOWN }),
  most,
});
const series = kind({
  kind: 'series',
  title: 'Series',
  says: 'takes as rows, results as columns, statistics under them',
  sentence: {
    schema: seriesSchema,
    template: () => '{series}, at most {most} takes; the statistics of what counts {statistics}.',
  },
  defaults: { series: '', statistics: 'shown', most: 40 } as z.infer<typeof seriesSchema>,
  size: [180, 110],
});

const trailSchema = z.strictObject({ study });
const trail = kind({
  kind: 'trail',
  title: 'Trail',
  says: 'from a result back to the sensors, step by step',
  sentence: { schema: trailSchema, template: () => 'Where the numbers of {study} come from.' },
  defaults: { study: '' },
  size: [180, 90],
});

/** All of them, in the order in which they are offered. */
export const BLOCK_KINDS = {
  chart,
  figure,
  findings,
  table,
  channels: channelList,
  takes,
  series,
  words,
  picture,
  facts,
  method,
  trail,
  notes,
  rule,
  page: pageNumber,
};
export type BlockKinds = typeof BLOCK_KINDS;
export const blockKinds = Object.values(BLOCK_KINDS) as unknown as BlockKind[];
/** What a kind’s settings are. */
export type BlockSettings<K extends keyof BlockKinds> = z.infer<BlockKinds[K]['sentence']['schema']>;
export const blockKind = (name: string): BlockKind | undefined => blockKinds.find((k) => k.kind === name);
