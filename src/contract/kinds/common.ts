import { field } from '$core/sentence/sentence';
import { z } from 'zod';

const finite = z.number('Give a number.').min(-1e12).max(1e12);

/** Fields that every kind of channel with an input has, written once. */
export const commonFields = {
  unit: field(z.string().min(1), {
    label: 'Unit',
    editor: 'choice',
    options: { ask: 'units' },
    help: 'Limits and range are converted along.',
  }),
  range: field(
    z
      .object({ min: finite, max: finite })
      .refine((r) => r.min < r.max, 'The lower end has to be below the upper one.'),
    {
      label: 'Range',
      editor: 'range',
      unitFrom: 'unit',
      help: 'What you expect at most. The comb and the bars show how much of it is used.',
    },
  ),
  rateHz: field(z.number().positive('Give a rate above 0 S/s.').max(1e6), {
    label: 'Sample rate',
    editor: 'choice',
    unit: 'S/s',
    options: { ask: 'rates' },
    help: 'At least 2.5 times the highest frequency of interest; the module filters the rest away.',
  }),
  warnAbove: field(finite.nullable(), {
    label: 'Warn above',
    editor: 'number',
    unitFrom: 'unit',
    none: 'never',
  }),
  alarmAbove: field(finite.nullable(), {
    label: 'Alarm above',
    editor: 'number',
    unitFrom: 'unit',
    none: 'never',
  }),
};

export const SAMPLED = 'Sampled at {rateHz}. Warn above {warnAbove}, alarm above {alarmAbove}.';

/** A positive number with its reason when it is not. */
export const positive = (max: number, why = 'Give a value above 0.') =>
  z.number('Give a number.').positive(why).max(max, `At most ${max}.`);
