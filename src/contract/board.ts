import { z } from 'zod';

/** Kinds of live views. */
export const VIEW_KINDS = [
  'strip',
  'burst',
  'spectrum',
  'level',
  'dial',
  'bar',
  'number',
  'xy',
  'lamp',
  'table',
  'text',
  'picture',
  'control',
] as const;
export type ViewKind = (typeof VIEW_KINDS)[number];

export const VIEW_TITLES: Record<ViewKind, string> = {
  strip: 'Strip',
  burst: 'Burst',
  spectrum: 'Spectrum',
  level: 'Level over time',
  dial: 'Dial',
  bar: 'Bar',
  number: 'Number',
  xy: 'One against another',
  lamp: 'Lamp',
  table: 'Table',
  text: 'Text',
  picture: 'Picture with values',
  control: 'Control',
};
/** What each view is good for, said where one is chosen. */
export const VIEW_PURPOSES: Record<ViewKind, string> = {
  strip: 'a long history, minutes to days, by its extremes',
  burst: 'every sample around the moment it passes a level, held in place',
  spectrum: 'what frequencies it holds: now, on average, highest so far',
  level: 'root mean square over time',
  dial: 'one value in its range',
  bar: 'several values side by side, each in its range',
  number: 'one value large, with its extremes and the peak since the start',
  xy: 'one channel against another',
  lamp: 'yes or no, and limits, at a glance',
  table: 'many channels: now, lowest, highest, mean',
  text: 'words of your own',
  picture: 'a picture with readings placed on it',
  control: 'drives an output: slider, switch, push or number',
};

const place = z.number().int().min(0).max(200);
const size = z.number().int().min(1).max(24);

/** One live view and where it stands on the grid of 24 columns. */
export const View = z.strictObject({
  id: z.string().min(1).max(40),
  kind: z.enum(VIEW_KINDS),
  channels: z.array(z.string().max(64)).max(64),
  x: place,
  y: place,
  w: size,
  h: size,
  /** Time shown, s. */
  span: z
    .number()
    .min(0.01)
    .max(86_400 * 7)
    .default(60),
  /** Range shown; null for the channel's own. */
  range: z.object({ min: z.number(), max: z.number() }).nullable().default(null),
  /** Level that holds a burst in place. */
  level: z.number().default(0),
  title: z.string().max(80).default(''),
  text: z.string().max(4000).default(''),
  /** Id of a picture, and where its readings stand: shares of its width and height. */
  picture: z.number().int().nullable().default(null),
  spots: z
    .array(
      z.object({ channel: z.string().max(64), x: z.number().min(0).max(1), y: z.number().min(0).max(1) }),
    )
    .max(64)
    .default([]),
  style: z.enum(['slider', 'switch', 'push', 'number']).default('slider'),
});
export type View = z.infer<typeof View>;

/** Live views of a job on one page. */
export const Board = z.strictObject({
  id: z.string(),
  name: z.string().trim().min(1, 'Give the board a name.').max(60, 'At most 60 characters.'),
  views: z.array(View).max(64, 'At most 64 views on one board.'),
});
export type Board = z.infer<typeof Board>;

/** Rows and columns a view of each kind starts with. */
export const VIEW_SIZES: Record<ViewKind, [w: number, h: number]> = {
  strip: [12, 4],
  burst: [10, 5],
  spectrum: [10, 5],
  level: [10, 4],
  dial: [5, 5],
  bar: [6, 5],
  number: [5, 3],
  xy: [7, 6],
  lamp: [4, 2],
  table: [9, 5],
  text: [6, 2],
  picture: [9, 6],
  control: [5, 2],
};

/** The view that fits a channel when it is dropped on a board. */
export function fittingView(channel: { role: string; unit: string; rateHz: number }): ViewKind {
  if (channel.role === 'driven') return 'control';
  if (channel.unit === 'yes/no') return 'lamp';
  return 'strip';
}
