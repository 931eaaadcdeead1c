import { z } from 'zod';
import { field } from '$core/sentence/sentence';

const KINDS = ['strips', 'one plot', 'a curve against', 'spectra'] as const;
const LAID = ['over each other', 'under each other'] as const;
const ALIGNED = ['their start', 'the clock', 'a mark', 'a crossing', 'the best fit'] as const;
const WAYS = ['rises', 'falls'] as const;
const AXES = ['quantity', 'channel'] as const;
const TIMES = ['since the start', 'by the clock', 'in UTC', 'since a mark'] as const;
const TABLES = ['no table', 'a table of values'] as const;
const SPREADS = ['no spread', 'lowest to highest', 'mean ± s'] as const;

const channelName = z.string().max(400);
/** How an axis is drawn where it is not left to itself. */
const Axis = z.strictObject({
  min: z.number().nullable().default(null),
  max: z.number().nullable().default(null),
  logarithmic: z.boolean().default(false),
  /** Another unit of the same quantity, for display. */
  unit: z.string().max(40).nullable().default(null),
});
export type Axis = z.infer<typeof Axis>;
export const OWN_AXIS: Axis = { min: null, max: null, logarithmic: false, unit: null };

/** How takes are looked at, by the names of their channels: it fits any take that has them. */
export const Drawing = z.strictObject({
  as: field(z.enum(KINDS).default('strips'), {
    label: 'Drawn as',
    editor: 'choice',
    options: KINDS,
    help: 'Strips stand under each other over one time axis; one plot has an axis for each quantity or channel.',
  }),
  channels: field(z.array(channelName).max(60).default([]), {
    label: 'Channels',
    editor: 'channels',
    counted: { beyond: 3, as: 'channels' },
    none: 'the usual channels',
    help: 'By their names, so that the same drawing fits other takes.',
  }),
  against: field(channelName.nullable().default(null), {
    label: 'Against',
    editor: 'channel',
    none: 'a channel',
    help: 'The channel that runs from left to right.',
  }),
  axes: field(z.enum(AXES).default('quantity'), {
    label: 'An axis for each',
    editor: 'choice',
    options: AXES,
  }),
  laid: field(z.enum(LAID).default('over each other'), {
    label: 'Takes lie',
    editor: 'choice',
    options: LAID,
  }),
  aligned: field(z.enum(ALIGNED).default('their start'), {
    label: 'Counted from',
    editor: 'choice',
    options: ALIGNED,
    help: 'What is brought together in all takes.',
  }),
  mark: field(z.string().max(400).default(''), {
    label: 'Mark',
    editor: 'choice',
    options: { ask: 'marks', free: true },
    none: 'its first mark',
    help: 'The words it begins with.',
  }),
  alignBy: field(channelName.nullable().default(null), {
    label: 'Channel',
    editor: 'channel',
    none: 'a channel',
  }),
  way: field(z.enum(WAYS).default('rises'), { label: 'Way', editor: 'choice', options: WAYS }),
  level: field(z.number().min(-1e15).max(1e15).default(0), {
    label: 'Level',
    editor: 'number',
    unitFrom: 'alignBy',
  }),
  hysteresis: field(z.number().min(0, 'At least 0.').max(1e15).default(0), {
    label: 'Hysteresis',
    editor: 'number',
    unitFrom: 'alignBy',
    help: 'How far it has to have been on the other side, so that noise counts once.',
  }),
  time: field(z.enum(TIMES).default('since the start'), { label: 'Time', editor: 'choice', options: TIMES }),
  legend: field(z.string().max(200).default('name'), {
    label: 'Takes told apart by',
    editor: 'choice',
    options: { ask: 'legends' },
    help: 'Their name, or a fact.',
  }),
  spread: field(z.enum(SPREADS).default('no spread'), {
    label: 'Spread of all',
    editor: 'choice',
    options: SPREADS,
    help: 'A band over a common grid of all takes, beside the curves.',
  }),
  lines: field(z.number().int().min(8, 'At least 8.').max(65_536, 'At most 65536.').default(1024), {
    label: 'Lines',
    editor: 'number',
    help: 'Of each spectrum: more are finer and noisier.',
  }),
  table: field(z.enum(TABLES).default('no table'), {
    label: 'Table',
    editor: 'choice',
    options: TABLES,
    help: 'Values of what is drawn, at round steps over the window, under the plots.',
  }),
  /** Channels that share a strip or plot with the one they are named after. */
  together: z.record(channelName, channelName).default({}),
  /** By channel. */
  axis: z.record(channelName, Axis).default({}),
});
export type Drawing = z.output<typeof Drawing>;
export const USUAL_DRAWING: Drawing = Drawing.parse({});

export interface NamedDrawing {
  id: string;
  name: string;
  drawing: Drawing;
}
