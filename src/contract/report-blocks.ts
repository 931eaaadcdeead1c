import { z } from 'zod';
import { field } from '$core/sentence/sentence';
import { chart } from './report-chart';
import { SHOWN, caption, channels, kind, most, study, type BlockKind } from './report-fields';

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

const WHEN = ['at each mark', 'at chosen times'] as const;
const readingsSchema = z.strictObject({
  channels,
  when: field(z.enum(WHEN), { label: 'When', editor: 'choice', options: WHEN }),
  times: field(z.string().trim().max(400), {
    label: 'Times, s',
    editor: 'text',
    none: 'no time yet',
    help: 'Seconds of the take, parted by semicolons: 12.5; 120; 200.',
  }),
  most,
});
const readings = kind({
  kind: 'readings',
  title: 'Readings',
  says: 'of channels at marks or at chosen times, with ±',
  sentence: {
    schema: readingsSchema,
    template: ({ when }) =>
      `What {channels} read {when}${when === WHEN[1] ? ': {times} s' : ''}, at most {most} rows.`,
  },
  defaults: { channels: [], when: WHEN[0], times: '', most: 20 } as z.infer<typeof readingsSchema>,
  size: [180, 60],
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

const device = field(z.string().trim().max(60), {
  label: 'Device',
  editor: 'text',
  none: 'what was measured last',
  help: 'By its name: its last result counts.',
});
const noiseSchema = z.strictObject({ device, most });
const noise = kind({
  kind: 'noise',
  title: 'Noise figure',
  says: 'of a device with its gain, each with ±',
  sentence: {
    schema: noiseSchema,
    template: () => 'Noise figure and gain of {device}, at most {most} points.',
  },
  defaults: { device: '', most: 30 },
  size: [180, 80],
});
const emissionsSchema = z.strictObject({ device, most });
const emissions = kind({
  kind: 'emissions',
  title: 'Suspects of emissions',
  says: 'of the last look, beside their limits',
  sentence: {
    schema: emissionsSchema,
    template: () => 'What was suspicious of {device}, at most {most} lines.',
  },
  defaults: { device: '', most: 30 },
  size: [180, 70],
});

const analysis = field(z.string().trim().max(80), {
  label: 'Analysis',
  editor: 'text',
  none: 'the last modal analysis',
  help: 'By its name.',
});
const setOfIt = field(z.number().int().min(1).max(40), {
  label: 'Set',
  editor: 'number',
  help: 'Its place among the sets of the analysis.',
});
const modal = { analysis, set: setOfIt };
const modesSchema = z.strictObject({
  ...modal,
  sentence: field(z.enum(['shown', 'left out']), { label: 'Its sentence', editor: 'choice', options: ['shown', 'left out'] }), // prettier-ignore
});
const modes = kind({
  kind: 'modes',
  title: 'Modes',
  says: 'frequencies and dampings with ±, and how they were found',
  sentence: { schema: modesSchema, template: () => 'Modes of {analysis}, set {set}; its sentence {sentence}.' }, // prettier-ignore
  defaults: { analysis: '', set: 1, sentence: 'shown' } as z.infer<typeof modesSchema>,
  size: [180, 70],
});
const stabilizationSchema = z.strictObject(modal);
const stabilization = kind({
  kind: 'stabilization',
  title: 'Stabilization diagram',
  says: 'poles over order as they come to rest',
  sentence: { schema: stabilizationSchema, template: () => 'Poles over order of {analysis}, set {set}.' },
  defaults: { analysis: '', set: 1 },
  size: [180, 80],
});
const shapesSchema = z.strictObject({
  ...modal,
  most: field(z.number().int().min(1).max(24), { label: 'At most', editor: 'number' }),
});
const shapes = kind({
  kind: 'shapes',
  title: 'Shapes',
  says: 'modes on their wireframe',
  sentence: { schema: shapesSchema, template: () => 'Shapes of {analysis}, set {set}, at most {most}.' },
  defaults: { analysis: '', set: 1, most: 9 },
  size: [180, 110],
});
const alikeSchema = z.strictObject(modal);
const alike = kind({
  kind: 'alike',
  title: 'Alike (MAC)',
  says: 'how alike the shapes of modes are',
  sentence: { schema: alikeSchema, template: () => 'How alike the modes of {analysis} are, set {set}.' },
  defaults: { analysis: '', set: 1 },
  size: [120, 60],
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
  readings,
  noise,
  emissions,
  modes,
  stabilization,
  shapes,
  alike,
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
