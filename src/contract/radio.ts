import type { BandLine } from '$core/radio/lines';
import { DETECTORS } from '$core/radio/band';
import { LINES_MOST_OF_ALL } from '$core/radio/lines';
import { LINES_MOST, type BandPlan, type BandRequest } from '$core/radio/resolution';
import { FILTER_SHAPES } from '$core/radio/response';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import type { CatchRequest } from '$core/radio/catching';
import type { Catching } from './radio-catching';
import type { Picture, Pictured } from './radio-pictures';
import type { Modulation } from './radio-modulation';
import type { Measuring } from './radio-measuring';

const frequency = z
  .number('Give a number.')
  .positive('Give a frequency above 0 MHz.')
  .max(100_000, 'At most 100 GHz.');
const HEIGHTS = [20, 30, 50, 80, 100, 120, 150] as const;

/** How a band is listened to, as a sentence. Frequencies in MHz, bandwidths in kHz. */
/** Times that a picture of the band may last, s. */
const SPEEDS = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10] as const;
const listening = z.strictObject({
  span: field(z.enum(['around', 'from']), { label: 'Span', editor: 'choice', options: ['around', 'from'] }),
  around: field(frequency, { label: 'Around', editor: 'number', unit: 'MHz' }),
  wide: field(frequency, { label: 'Wide', editor: 'number', unit: 'MHz' }),
  from: field(frequency, { label: 'From', editor: 'number', unit: 'MHz' }),
  to: field(frequency, { label: 'To', editor: 'number', unit: 'MHz' }),
  resolving: field(z.number('Give a number.').positive('Give a bandwidth above 0 kHz.').max(1e5), {
    label: 'Resolution bandwidth',
    editor: 'number',
    unit: 'kHz',
    help: 'Width of the filter 3 dB down. Narrower tells neighbours apart and lowers the noise; wider catches shorter events.',
  }),
  smoothing: field(z.number('Give a number.').positive('Give a bandwidth above 0 kHz.').max(1e5).nullable(), {
    label: 'Smoothing (video) bandwidth',
    editor: 'number',
    unit: 'kHz',
    none: 'not at all',
    help: 'Smooths the power of each line over time, before the detector. It calms noise, and flattens what is short.',
  }),
  detector: field(z.enum(DETECTORS), {
    label: 'Detector',
    editor: 'choice',
    options: DETECTORS,
    help: 'How the transforms of one picture become its line. Over noise the mean of the magnitudes reads 1.05 dB and the mean of the levels 2.51 dB below the rms.',
  }),
  shape: field(z.enum(FILTER_SHAPES), {
    label: 'Filter',
    editor: 'choice',
    options: FILTER_SHAPES,
    help: 'The flat top reads levels best, Hann tells close neighbours apart, the others see weak ones beside strong ones.',
  }),
  top: field(z.number('Give a number.').min(-150, 'At least −150 dBm.').max(50, 'At most 50 dBm.'), {
    label: 'Level at the top',
    editor: 'number',
    unit: 'dBm',
  }),
  height: field(
    z.number().refine((v) => (HEIGHTS as readonly number[]).includes(v), 'Choose one of the list.'),
    {
      label: 'Height of the picture',
      editor: 'choice',
      unit: 'dB',
      options: HEIGHTS,
    },
  ),
  eachS: field(
    z.number().refine((v) => (SPEEDS as readonly number[]).includes(v), 'Choose one of the list.'),
    {
      label: 'A picture each',
      editor: 'choice',
      unit: 's',
      options: SPEEDS,
      help: 'What comes in this time makes one line. Longer ones are steadier and fewer; nothing is left out.',
    },
  ),
  fadeS: field(
    z.number('Give a number.').min(0.1, 'At least 0.1 s.').max(86_400, 'At most a day.').nullable(),
    {
      label: 'How often each level occurs: fades within',
      editor: 'number',
      unit: 's',
      none: 'never',
    },
  ),
});
export const Listening = listening;
export type Listening = z.infer<typeof Listening>;

export const LISTENING: Sentence<typeof listening> = {
  schema: listening,
  template: (s) =>
    `Listen {span} ${s.span === 'around' ? '{around}, {wide} wide' : '{from} to {to}'}, resolving {resolving} smoothed {smoothing} through a {shape} filter, reading the {detector}.`,
};
/** What belongs to the pictures alone. */
export const PICTURE: Sentence<typeof listening> = {
  schema: listening,
  template: () => 'From {top} down over {height}, a picture each {eachS}.',
};
export const FADING: Sentence<typeof listening> = {
  schema: listening,
  template: () => 'fades within {fadeS}',
};

export const LISTENING_DEFAULTS: Listening = {
  span: 'around',
  around: 868.6,
  wide: 3.2,
  from: 867,
  to: 870.2,
  resolving: 10,
  smoothing: null,
  detector: 'rms',
  shape: 'Blackman-Harris',
  top: -30,
  height: 100,
  eachS: 0.05,
  fadeS: 10,
};

/** The band that a sentence asks for, Hz. */
export function bandOf(s: Listening): BandRequest {
  const [low, high] = s.span === 'around' ? [s.around - s.wide / 2, s.around + s.wide / 2] : [s.from, s.to];
  return {
    centreHz: ((low + high) / 2) * 1e6,
    spanHz: (high - low) * 1e6,
    resolutionHz: s.resolving * 1e3,
    smoothingHz: s.smoothing === null ? null : s.smoothing * 1e3,
    shape: s.shape,
  };
}

/** One of the lines over a band. */
export const LineWish = z.strictObject({
  id: z.string().min(1).max(40),
  shows: z.enum(['now', 'highest', 'lowest', 'average', 'kept', 'difference']),
  /** Of an average: of how many pictures, and on what. */
  of: z.number().int().min(2).max(100_000).default(50),
  on: z.enum(['power', 'level']).default('power'),
  /** Of a difference: ids of two others. */
  from: z.string().max(40).default(''),
  minus: z.string().max(40).default(''),
  /** Of a kept one: since when, and its levels, dBm. */
  atMs: z.number().default(0),
  levels: z.array(z.number()).max(LINES_MOST).default([]),
  shown: z.boolean().default(true),
  held: z.boolean().default(false),
});
export type LineWish = z.infer<typeof LineWish>;
export const LineWishes = z.array(LineWish).min(1).max(LINES_MOST_OF_ALL);

export const LINE_DEFAULTS: LineWish[] = (['now', 'highest', 'average'] as const).map((shows) =>
  LineWish.parse({ id: shows, shows }),
);

/** What the engine is asked to hear of a receiver. */
export const ListenWish = z.strictObject({
  request: z.custom<BandRequest>(),
  detector: z.enum(DETECTORS),
  top: z.number(),
  height: z.number(),
  /** Time of a picture, s. */
  eachS: z.number(),
  fadeS: z.number().nullable(),
  /** A carrier whose frequency is counted, and the width in which it is alone. */
  count: z.object({ hz: z.number(), bandwidthHz: z.number() }).nullable(),
  /** In the order in which they are drawn; `begins` counts how often it was cleared. */
  lines: z.array(
    z.object({ id: z.string(), line: z.custom<BandLine>(), held: z.boolean(), begins: z.number() }),
  ),
});
export type ListenWish = z.infer<typeof ListenWish>;

/** What can be asked of a receiver at once: pictures of the band, pictures over time, captures. */
export const RadioWish = z.strictObject({
  band: ListenWish.nullable(),
  catching: z.custom<CatchRequest>().nullable(),
  /** Captures whose modulation is read. */
  reading: z.custom<CatchRequest>().nullable().optional(),
});
export type RadioWish = z.infer<typeof RadioWish>;

/** How a receiver stands, and how well it is known. */
export const ReceiverState = z.object({
  centreHz: z.number(),
  sampleRateHz: z.number(),
  gainDb: z.number(),
  /** Frequencies to which it can be tuned; null for what was recorded. */
  tunes: z.object({ fromHz: z.number(), toHz: z.number() }).nullable(),
  /** Limits of level, response and reference (dB, dB, relative); null for a recording without level, whose 0 dBm is its own full scale. */
  accuracy: z.object({ levelDb: z.number(), flatnessDb: z.number(), clock: z.number() }).nullable(),
  noiseFigure: z.number().nullable(),
  /** Whether its levels are known at all: otherwise its full scale counts as 0 dBm. */
  scaled: z.boolean(),
});
export type ReceiverState = z.infer<typeof ReceiverState>;

/** A picture of a band as it is told, twenty times a second. */
export interface HeardBand {
  unit: string;
  timeMs: number;
  /** Seconds that it is about. */
  fromS: number;
  toS: number;
  plan: BandPlan;
  receiver: ReceiverState;
  transforms: number;
  /** Samples that were missed: while there are some nothing is caught for certain. */
  lost: number;
  overload: boolean;
  /** dBm, in the order asked for; null for a line that has nothing yet. */
  lines: { id: string; sinceMs: number; pictures: number; levels: Float32Array | null }[];
  /** The highest of each line in this picture, dBm: what the waterfall keeps. */
  highest: Float32Array;
  /** The carrier that is counted; ± at 95 % of the counting, and of the reference where it is known. */
  counted: { hz: number; expandedHz: number } | null;
  /** How often each level occurs, share of the transforms from 0 to 255 by its root; sent now and then. */
  density: { columns: number; rows: number; transforms: number; cells: Uint8Array } | null;
}

/** What cannot be heard, and why. */
export interface HeardFault {
  unit: string;
  says: string;
  next: string;
}

/** A receiver as pages see it. */
export interface RadioView {
  unit: string;
  name: string;
  receiver: ReceiverState;
  answering: boolean;
  says: string;
  standIn: boolean;
  /** Of a recorded band: its take, how long it is, where it stands and how fast it is played (0: not). */
  recorded: { takeId: string; durationS: number; atS: number; speed: number } | null;
  listening: Listening;
  lines: LineWish[];
  measuring: Measuring;
  catching: Catching;
  modulation: Modulation;
  /** How the pictures of its pages are arranged. */
  pictures: Record<Pictured, readonly Picture[]>;
  fault: HeardFault | null;
}

/** A line as it is computed. @param all among which a difference finds the two that it is of */
export function wishedLine(line: LineWish, all: readonly LineWish[]): BandLine {
  const { shows, of, on } = line;
  if (shows === 'average') return { shows, of, on };
  if (shows === 'kept') return { shows, levels: line.levels, atMs: line.atMs };
  if (shows !== 'difference') return { shows };
  const place = (id: string) => all.findIndex((l) => l.id === id);
  return { shows, from: place(line.from), minus: place(line.minus) };
}
