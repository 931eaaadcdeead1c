import type { CatchRequest, Caught } from '$core/radio/catching';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import { headed, unheaded } from './headed';

const WAYS = ['rises above', 'falls below'] as const;
const BEGINS = ['where the power', 'at the clock', 'at once, again and again'] as const;
const ms = (label: string, help?: string) =>
  field(z.number('Give a number.').min(0, 'At least 0 ms.').max(60_000, 'At most a minute.'), {
    label,
    editor: 'number',
    unit: 'ms',
    help,
  });
const share = (label: string) =>
  field(z.number('Give a number.').min(1, 'At least 1 %.').max(99, 'At most 99 %.'), {
    label,
    editor: 'number',
    unit: '%',
  });

/** How pictures over time are caught, as a sentence. */
const catching = z.strictObject({
  at: field(z.number('Give a number.').positive('Give a frequency above 0 MHz.').max(1e5), {
    label: 'At',
    editor: 'number',
    unit: 'MHz',
  }),
  wide: field(z.number('Give a number.').positive('Give a width above 0 kHz.').max(1e6), {
    label: 'Wide',
    editor: 'number',
    unit: 'kHz',
    help: 'Only what lies in it is heard. Edges of pulses cannot be faster than about its inverse.',
  }),
  length: ms('Length of the picture'),
  begins: field(z.enum(BEGINS), { label: 'Begins', editor: 'choice', options: BEGINS }),
  way: field(z.enum(WAYS), { label: 'Crossing', editor: 'choice', options: WAYS }),
  level: field(z.number('Give a number.').min(-200).max(50, 'At most 50 dBm.'), {
    label: 'Level',
    editor: 'number',
    unit: 'dBm',
  }),
  back: field(z.number('Give a number.').min(0, 'At least 0 dB.').max(60, 'At most 60 dB.'), {
    label: 'After it was back by',
    editor: 'number',
    unit: 'dB',
    help: 'Hysteresis: how far the power has to go back before it can cross again.',
  }),
  every: field(z.number('Give a number.').positive('Give a time above 0 ms.').max(60_000), {
    label: 'Every',
    editor: 'number',
    unit: 'ms',
  }),
  before: ms('Before it', 'Memory from before the begin.'),
  wait: ms('Waiting after it', 'No other picture begins for so long.'),
  low: share('Edges from'),
  high: share('Edges to'),
});
export const Catching = catching;
export type Catching = z.infer<typeof Catching>;

export const CATCHING: Sentence<typeof catching> = {
  schema: catching,
  template: (s) =>
    `Listen at {at}, {wide} wide, and draw {length} {begins}${
      s.begins === 'where the power'
        ? ' {way} {level} after it was back by {back}'
        : s.begins === 'at the clock'
          ? ', every {every}'
          : ''
    }, keeping {before} before it${s.begins === 'where the power' ? ' and waiting {wait} after' : ''}. Edges from {low} to {high} of the height.`,
};

export const CATCHING_DEFAULTS: Catching = {
  at: 868.9,
  wide: 400,
  length: 60,
  begins: 'where the power',
  way: 'rises above',
  level: -70,
  back: 6,
  every: 1000,
  before: 2,
  wait: 20,
  low: 10,
  high: 90,
};

export const catchRequest = (s: Catching): CatchRequest => ({
  centreHz: s.at * 1e6,
  widthHz: s.wide * 1e3,
  lengthS: s.length / 1e3,
  beforeS: s.before / 1e3,
  begins:
    s.begins === 'where the power'
      ? { by: 'level', level: s.level, way: s.way, back: s.back, waitS: s.wait / 1e3 }
      : s.begins === 'at the clock'
        ? { by: 'clock', everyS: s.every / 1e3 }
        : { by: 'itself' },
});

/** A picture over time as it is told. */
export interface CaughtTold extends Caught {
  unit: string;
  timeMs: number;
  /** What it was asked by. */
  wish: CatchRequest;
  /** How many there were since it was asked for; those between two that are told were not sent. */
  number: number;
  /** Whether its modulation is read. */
  reading?: true;
}

/** As bytes: its head, then the samples as float32. */
export const encodeCaught = ({ iq, ...head }: CaughtTold): Uint8Array<ArrayBuffer> => headed(head, [iq]);

export function decodeCaught(bytes: Uint8Array): CaughtTold {
  const { head, buffer, at, end } = unheaded<Omit<CaughtTold, 'iq'>>(bytes);
  return { ...head, iq: new Float32Array(buffer, at, (end - at) / 4) };
}
