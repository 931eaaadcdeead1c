import { z } from 'zod';
import { field } from '../sentence/sentence';
import { WINDOW_NAMES } from '../spectrum/windows';

const LENGTHS = [64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384, 32768, 65536] as const;

/** The fields of a study that looks at segments through a window. */
export const segmentFields = {
  length: field(
    z
      .number()
      .int()
      .refine((n) => LENGTHS.includes(n as 64), `Choose one of ${LENGTHS.join(', ')}.`),
    {
      label: 'Segment length',
      editor: 'choice',
      options: LENGTHS,
      unit: 'samples',
      help: 'Longer segments separate closer lines; shorter ones average more, or follow faster.',
    },
  ),
  window: field(z.enum(WINDOW_NAMES), { label: 'Window', editor: 'choice', options: WINDOW_NAMES }),
  overlap: field(z.number().min(0).max(95), {
    label: 'Overlap',
    editor: 'number',
    unit: '%',
    help: 'Share of a segment that the next one repeats.',
  }),
};
export const upToField = field(z.number().positive('Give a frequency above 0 Hz.').nullable(), {
  label: 'Highest frequency shown',
  editor: 'number',
  unit: 'Hz',
  none: 'half the sample rate',
});

/** How many spectra are drawn beside each other. */
export const DRAWN_AS = ['heat picture', 'stack of lines'] as const;

/** The unit of a power. */
export const squareUnit = (unit: string): string =>
  unit.includes('²') || unit.includes('/') || unit.includes('·') ? `(${unit})²` : `${unit}²`;
/** The unit of a power density. */
export const densityUnit = (unit: string): string => `${squareUnit(unit)}/Hz`;
