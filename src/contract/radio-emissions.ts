import { field, type Sentence } from '$core/sentence/sentence';
import type { LimitDetector } from '$core/emissions/limits';
import { z } from 'zod';
import { headed, unheaded } from './headed';
import type { Correction, LimitSet } from './radio-kept';

export const RANGES_MOST = 10;
/** Suspects that are listed at the most. */
export const SUSPECTS_MOST = 200;
const number = z.number('Give a number.');
const mhz = number.positive('Give a frequency above 0 MHz.').max(100_000, 'At most 100 GHz.');
/** Bandwidths of the interference receiver, kHz at −6 dB (CISPR 16-1-1). */
const BANDWIDTHS = [0.2, 9, 120, 1000] as const;
const SCAN_DETECTORS = ['peak', 'average', 'rms'] as const;

/** A range of a look for emissions, as a sentence. */
const range = z.strictObject({
  from: field(mhz, { label: 'From', editor: 'number', unit: 'MHz' }),
  to: field(mhz, { label: 'To', editor: 'number', unit: 'MHz' }),
  resolving: field(
    z.number().refine((v) => (BANDWIDTHS as readonly number[]).includes(v), 'Choose one of the list.'),
    {
      label: 'Resolving',
      editor: 'choice',
      unit: 'kHz',
      options: BANDWIDTHS,
      help: 'Width of the filter 6 dB down. CISPR 16-1-1 has 200 Hz up to 150 kHz, 9 kHz up to 30 MHz, 120 kHz up to 1 GHz, 1 MHz above.',
    },
  ),
  detector: field(z.enum(SCAN_DETECTORS), {
    label: 'Detector of the line',
    editor: 'choice',
    options: SCAN_DETECTORS,
    help: 'The peak misses nothing; suspects are measured by the others afterwards.',
  }),
  dwell: field(number.min(1, 'At least 1 ms.').max(15_000, 'At most 15 s.'), {
    label: 'A step lasts',
    editor: 'number',
    unit: 'ms',
    help: 'Longer than the slowest thing that repeats: what comes ten times a second needs 100 ms.',
  }),
  gain: field(number.min(-40, 'At least −40 dB.').max(60, 'At most 60 dB.').nullable(), {
    label: 'Gain of the receiver, or its attenuation below 0',
    editor: 'number',
    unit: 'dB',
    none: 'as it stands',
    help: '−10 dB is an attenuation of 10 dB: less gain where strong signals would overload the receiver, at the price of more noise of its own.',
  }),
  through: field(z.array(z.string().max(60)).max(6), {
    label: 'Through',
    editor: 'several',
    options: { ask: 'corrections' },
    none: 'nothing that corrects it',
    help: 'Cables, attenuators, amplifiers, antenna or coupling network between the device and the receiver.',
  }),
});
export const EmissionRange = range;
export type EmissionRange = z.infer<typeof EmissionRange>;
export const RANGE: Sentence<typeof range> = {
  schema: range,
  template: (s) =>
    `{from} to {to} resolving {resolving}, {detector}, {dwell} a step, ${(s.gain ?? 0) < 0 ? 'attenuated by a gain of' : 'gain'} {gain}, through {through}.`,
};

/** A look for emissions, as a sentence. */
const emissions = z.strictObject({
  device: field(z.string().trim().max(60), {
    label: 'Of',
    editor: 'text',
    none: 'a device without a name',
  }),
  limits: field(z.string().max(60).nullable(), {
    label: 'Limits',
    editor: 'choice',
    options: { ask: 'limits' },
    none: 'no limits',
    empties: true,
  }),
  margin: field(number.min(0, 'At least 0 dB.').max(40, 'At most 40 dB.'), {
    label: 'Suspects are within',
    editor: 'number',
    unit: 'dB',
    help: 'What comes this near to the limit is listed, pinned and measured.',
  }),
  seconds: field(number.min(0.5, 'At least 0.5 s: the meter has to come to rest.').max(60, 'At most 60 s.'), {
    label: 'Each is measured for',
    editor: 'number',
    unit: 's',
  }),
  around: field(number.min(0, 'At least 0 bandwidths.').max(10, 'At most 10 bandwidths.'), {
    label: 'Sought as far away, in bandwidths',
    editor: 'number',
    help: 'Before it is measured, the highest place is sought on either side.',
  }),
  seeking: field(number.min(0.1, 'At least 0.1 s.').max(60, 'At most 60 s.'), {
    label: 'Sought for',
    editor: 'number',
    unit: 's',
  }),
  ranges: z.array(range).min(1).max(RANGES_MOST),
});
export const EmissionSettings = emissions;
export type EmissionSettings = z.infer<typeof EmissionSettings>;
export const EMISSIONS: Sentence<typeof emissions> = {
  schema: emissions,
  template: (s) =>
    `Look ${s.ranges.length === 1 ? 'in one range' : `in ${s.ranges.length} ranges`} against {limits}; suspects within {margin} of the limit are sought for {seeking} up to {around} times the bandwidth away, then measured with peak, quasi-peak and average for {seconds} each.`,
};

const RANGE_DEFAULTS: EmissionRange[] = [
  { from: 0.15, to: 0.5, resolving: 9, dwell: 50 },
  { from: 0.5, to: 5, resolving: 9, dwell: 50 },
  { from: 5, to: 30, resolving: 9, dwell: 50 },
  { from: 30, to: 88, resolving: 120, dwell: 20 },
  { from: 88, to: 216, resolving: 120, dwell: 20 },
  { from: 216, to: 500, resolving: 120, dwell: 20 },
  { from: 500, to: 1000, resolving: 120, dwell: 20 },
].map((r) => ({ ...r, detector: 'peak' as const, gain: null, through: [] }));
export const EMISSION_DEFAULTS: EmissionSettings = {
  device: '',
  limits: null,
  margin: 6,
  seconds: 1,
  around: 1,
  seeking: 0.5,
  ranges: RANGE_DEFAULTS,
};

/** Somewhere that passes the limit or comes near it. */
export interface Suspect {
  id: number;
  hz: number;
  /** Of the line, in its unit. */
  level: number;
  ambient: boolean;
  note: string;
  measured: {
    atMs: number;
    hz: number;
    peak: number;
    /** null above 1 GHz, where none is defined. */
    quasiPeak: number | null;
    average: number;
    overload: boolean;
  } | null;
  limit: number;
  limitOf: LimitDetector;
  /** dB to the nearest limit by what was measured, or by the line while nothing was. */
  room: number;
}

/** A look, as it is listed. */
export interface EmissionRun {
  id: string;
  number: number;
  device: string;
  atMs: number;
  /** How long it took, s. */
  tookS: number;
  /** Taken without the device: what is in it is none of its own. */
  ambient: boolean;
  /** Whether it was ended before its end. */
  partly: boolean;
  settings: EmissionSettings;
  limits: LimitSet | null;
  corrections: Correction[];
  receiver: string;
  /** ± of a level at 95 %, dB, by range. */
  expanded: number[];
  unit: string[];
  overloaded: number[];
  suspects: Suspect[];
  /** Suspects that are not listed for want of room. */
  more: number;
  /** Pictures of the arrangement. */
  pictures: string[];
}

/** Readings over the ranges of a look, corrected, in their units. */
export interface EmissionLine {
  range: number;
  startHz: number;
  stepHz: number;
  levels: Float32Array;
}

/** The bench of emissions as pages see it. */
export interface EmissionView {
  unit: string;
  name: string;
  answering: boolean;
  standIn: boolean;
  settings: EmissionSettings;
  fault: string;
  /** Seconds that a look takes at the least. */
  takesS: number;
  running: {
    what: 'look' | 'measure';
    share: number;
    leftS: number;
    runId: string;
    suspect: number | null;
    ambient: boolean;
  } | null;
  says: string;
}

/** Lines of a look as bytes. */
export const encodeLines = (lines: readonly EmissionLine[]): Uint8Array<ArrayBuffer> =>
  headed(
    lines.map(({ levels, ...l }) => ({ ...l, count: levels.length })),
    lines.map((l) => l.levels),
  );
export function decodeLines(bytes: Uint8Array): EmissionLine[] {
  const { head, buffer, at: start } = unheaded<(Omit<EmissionLine, 'levels'> & { count: number })[]>(bytes);
  let at = start;
  return head.map(({ count, ...l }) => {
    const levels = new Float32Array(buffer, at, count);
    at += levels.byteLength;
    return { ...l, levels };
  });
}
