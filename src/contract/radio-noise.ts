import { field, type Sentence } from '$core/sentence/sentence';
import { T0 } from '$core/noise-figure/sources';
import type { Contribution } from '$core/noise-figure/budget';
import type { Finding, PointPower } from '$core/noise-figure/findings';
import type { Basis } from '$core/noise-figure/own-noise';
import { z } from 'zod';

/** Points that are measured at the most. */
export const POINTS_MOST = 1001;
const number = z.number('Give a number.');
const mhz = number.positive('Give a frequency above 0 MHz.').max(100_000, 'At most 100 GHz.');
const kelvin = number.min(1, 'At least 1 K.').max(2000, 'At most 2000 K.');
const db = number.min(0, 'At least 0 dB.').max(60, 'At most 60 dB.');
const vswr = number.min(1, 'At least 1.').max(20, 'At most 20.');

/** How noise figure and gain are measured, as a sentence. Frequencies in MHz, bandwidths in kHz. */
const noise = z.strictObject({
  span: field(z.enum(['from', 'around', 'at']), {
    label: 'Frequencies',
    editor: 'choice',
    options: ['from', 'around', 'at'],
    help: 'Points from one frequency to another, around one, or just those of a list.',
  }),
  from: field(mhz, { label: 'From', editor: 'number', unit: 'MHz' }),
  to: field(mhz, { label: 'To', editor: 'number', unit: 'MHz' }),
  around: field(mhz, { label: 'Around', editor: 'number', unit: 'MHz' }),
  wide: field(mhz, { label: 'Wide', editor: 'number', unit: 'MHz' }),
  points: field(number.int('Give a whole number.').min(2, 'At least 2.').max(POINTS_MOST), {
    label: 'Points',
    editor: 'number',
  }),
  list: field(z.string().max(8000), {
    label: 'List',
    editor: 'text',
    none: 'no frequency',
    help: 'One frequency or several in MHz, by commas or blanks.',
  }),
  each: field(number.positive('Give a width above 0 MHz.').max(100), {
    label: 'Width of a point',
    editor: 'number',
    unit: 'MHz',
    help: 'Noise over this width is measured at each point: wider is steadier, narrower sees more of the device’s response.',
  }),
  resolving: field(number.positive('Give a bandwidth above 0 kHz.').max(1e4), {
    label: 'Resolution bandwidth',
    editor: 'number',
    unit: 'kHz',
    help: 'Within the width of a point, what stands out of the noise farther than noise does is taken for a carrier.',
  }),
  smoothing: field(number.min(0.001, 'At least 1 Hz.').max(1e4), {
    label: 'Smoothing (video) bandwidth',
    editor: 'number',
    unit: 'kHz',
    help: 'A sweep lasts for its reciprocal: less of it averages longer.',
  }),
  sweeps: field(number.int('Give a whole number.').min(1, 'At least 1.').max(1000), {
    label: 'Sweeps averaged',
    editor: 'number',
  }),
  source: field(z.string().max(40).nullable(), {
    label: 'Noise source',
    editor: 'choice',
    options: { ask: 'noise sources' },
    none: 'no source yet',
  }),
  drive: field(z.string().max(60).nullable(), {
    label: 'Switched by',
    editor: 'channel',
    none: 'hand',
    empties: true,
    help: 'A driven channel that supplies the source: the steps then go by themselves.',
  }),
  room: field(kelvin, {
    label: 'Room',
    editor: 'number',
    unit: 'K',
    help: 'The source that is off is as warm as the room. 290 K unless it was measured.',
  }),
  roomBy: field(z.string().max(60).nullable(), {
    label: 'Room measured by',
    editor: 'channel',
    none: 'as stated',
    empties: true,
  }),
  before: field(db, { label: 'Loss before the device', editor: 'number', unit: 'dB' }),
  beforeBy: field(z.string().max(60).nullable(), {
    label: 'Loss before the device by table',
    editor: 'choice',
    options: { ask: 'corrections' },
    none: 'no table',
    empties: true,
  }),
  behind: field(db, { label: 'Loss after the device', editor: 'number', unit: 'dB' }),
  behindBy: field(z.string().max(60).nullable(), {
    label: 'Loss after the device by table',
    editor: 'choice',
    options: { ask: 'corrections' },
    none: 'no table',
    empties: true,
  }),
  lossK: field(kelvin.nullable(), {
    label: 'Temperature of the losses',
    editor: 'number',
    unit: 'K',
    none: 'room temperature',
  }),
  lossKnown: field(db, { label: '± of each loss', editor: 'number', unit: 'dB' }),
  wanted: field(number.min(0).max(60).nullable(), {
    label: 'Wanted',
    editor: 'number',
    unit: 'dB',
    none: 'whatever it is',
  }),
  vswrSource: field(vswr, { label: 'Standing wave ratio of the source', editor: 'number' }),
  vswrIn: field(vswr, { label: 'Of the device’s input', editor: 'number' }),
  vswrOut: field(vswr, { label: 'Of its output', editor: 'number' }),
  vswrReceiver: field(vswr, { label: 'Of the receiver', editor: 'number' }),
});
export const NoiseSettings = noise;
export type NoiseSettings = z.infer<typeof NoiseSettings>;

export const NOISE: Sentence<typeof noise> = {
  schema: noise,
  template: (s) =>
    `Measure ${
      s.span === 'at'
        ? '{span} {list} MHz'
        : s.span === 'from'
          ? '{points} points {span} {from} to {to}'
          : '{points} points {span} {around}, {wide} wide'
    }, each over {each} resolved to {resolving} smoothed {smoothing}, the mean of {sweeps} sweeps; source {source} switched by {drive}, room at {room} {roomBy}, loss before the device {before} and {beforeBy}, after it {behind} and {behindBy}.`,
};
/** What ± is made of, and what is wanted. */
export const NOISE_KNOWN: Sentence<typeof noise> = {
  schema: noise,
  template: () =>
    'Wanted below {wanted}. Standing wave ratios: source {vswrSource}, device {vswrIn} and {vswrOut}, receiver {vswrReceiver}; losses at {lossK}, known to ± {lossKnown}.',
};

export const NOISE_DEFAULTS: NoiseSettings = {
  span: 'from',
  from: 400,
  to: 1000,
  around: 700,
  wide: 600,
  points: 61,
  list: '',
  each: 1,
  resolving: 50,
  smoothing: 1,
  sweeps: 16,
  source: null,
  drive: null,
  room: T0,
  roomBy: null,
  before: 0,
  beforeBy: null,
  behind: 0,
  behindBy: null,
  lossK: null,
  lossKnown: 0.05,
  wanted: null,
  vswrSource: 1.1,
  vswrIn: 1.5,
  vswrOut: 1.5,
  vswrReceiver: 1.3,
};

/** Frequencies of the sentence, Hz, in ascending order. @returns a sentence about what is wrong with a list */
export function noiseFrequencies(s: NoiseSettings): number[] | { fault: string } {
  if (s.span === 'at') {
    const read = s.list
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    const odd = s.list.split(/[\s,;]+/).find((word) => word && !(Number(word) > 0));
    if (odd !== undefined) return { fault: `“${odd}” is no frequency in MHz.` };
    if (read.length === 0) return { fault: 'The list names no frequency.' };
    if (read.length > POINTS_MOST) return { fault: `At most ${POINTS_MOST} points.` };
    return [...new Set(read)].sort((a, b) => a - b).map((f) => f * 1e6);
  }
  const [from, to] = s.span === 'from' ? [s.from, s.to] : [s.around - s.wide / 2, s.around + s.wide / 2];
  if (!(from > 0 && to > from)) return { fault: 'The last frequency has to lie above the first.' };
  return Array.from(
    { length: s.points },
    (_, k) => Math.round((from + ((to - from) * k) / (s.points - 1)) * 1e9) / 1e3,
  );
}

/** A noise source that is kept. */
export const NoiseSource = z.strictObject({
  serial: z.string().trim().min(1, 'Give a serial number.').max(40),
  name: z.string().trim().max(60).default(''),
  /** Calibrated on this day, YYYY-MM-DD; empty when it is not known. */
  calibrated: z.string().max(10).default(''),
  points: z
    .array(
      z.strictObject({
        hz: z.number().positive().max(1e12),
        enr: z.number().min(-20, 'An excess below −20 dB?').max(60, 'An excess above 60 dB?'),
        expanded: z.number().min(0).max(10),
      }),
    )
    .min(1, 'Give at least one point.')
    .max(2000),
});
export type NoiseSource = z.infer<typeof NoiseSource>;

/** The states in which power is measured, in their order. */
export const NOISE_STATES = ['own on', 'own off', 'through off', 'through on'] as const;
export type NoiseState = (typeof NOISE_STATES)[number];

export interface NoisePoint {
  hz: number;
  /** null until it was measured in both states with the device between. */
  figureDb: number | null;
  figureExpanded: number;
  gainDb: number | null;
  gainExpanded: number;
  y: number;
  effectiveK: number;
  budget: Contribution[];
  findings: Finding[];
}

export interface OwnNoise {
  atMs: number;
  basis: Basis;
  hz: number[];
  powers: { on: PointPower; off: PointPower }[];
  /** Noise figure of the receiver in the middle of the band, dB. */
  middle: { hz: number; figureDb: number };
}

/** Noise figures of one device. */
export interface NoiseResult {
  id: string;
  /** Name or serial of the device. */
  device: string;
  atMs: number;
  settings: NoiseSettings;
  source: NoiseSource;
  roomK: number;
  ownAtMs: number;
  points: NoisePoint[];
  remark: string;
}

/** The bench of noise figures as pages see it. */
export interface NoiseView {
  unit: string;
  name: string;
  standIn: boolean;
  answering: boolean;
  settings: NoiseSettings;
  device: string;
  hz: number[];
  /** What is wrong with the settings; '' when they can be measured. */
  fault: string;
  own: OwnNoise | null;
  /** What of its basis changed since, in words. */
  stale: string[];
  /** Points measured in each state. */
  done: Record<NoiseState, number>;
  running: { state: NoiseState; share: number; leftS: number } | null;
  /** Why the last run ended before its end, or what seems wrong with the source. */
  says: string;
  points: NoisePoint[];
  /** Whether the source was changed for this time only. */
  changedForNow: boolean;
  /** A result was kept of what is shown. */
  kept: string | null;
}
