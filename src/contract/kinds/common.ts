import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { QuantityText } from '../quantity-text';

const finite = z.number('Give a number.').min(-1e12).max(1e12);
const limit = (label: string) =>
  field(finite.nullable(), { label, editor: 'number', unitFrom: 'unit', none: 'never' });

/** Fields that every kind of channel with an input has, written once. */
export const commonFields = {
  unit: field(QuantityText, {
    label: 'Unit',
    editor: 'choice',
    options: { ask: 'units', free: true },
    help: 'Limits, range, rules, plans and formulas are converted along.',
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
  rateHz: field(z.number('Give a number.').positive('Give a rate above 0 S/s.').max(1e6, 'At most 1 MS/s.'), {
    label: 'Sample rate',
    editor: 'choice',
    unit: 'S/s',
    options: { ask: 'rates', free: true },
    help: 'At least 2.5 times the highest frequency of interest; the module filters the rest away. A rate that it cannot do becomes the next higher one.',
  }),
  warnBelow: limit('Warn below'),
  warnAbove: limit('Warn above'),
  alarmBelow: limit('Alarm below'),
  alarmAbove: limit('Alarm above'),
  limitHold: field(z.number('Give a number.').min(0, 'At least 0 s.').max(3600, 'At most 3600 s.'), {
    label: 'Limits count after',
    editor: 'number',
    unit: 's',
    help: 'How long a value has to stay past a limit before it counts.',
  }),
  limitBack: field(z.number('Give a number.').min(0, 'At least 0.').max(1e12), {
    label: 'Limits end when back by',
    editor: 'number',
    unitFrom: 'unit',
    help: 'Hysteresis: how far the value has to come back before the state ends.',
  }),
};

/** Usual values of the common fields that most kinds share. */
export const COMMON_DEFAULTS = {
  warnBelow: null,
  warnAbove: null,
  alarmBelow: null,
  alarmAbove: null,
  limitHold: 0,
  limitBack: 0,
};

/** The limits in words; lower ones, hold and hysteresis only where they are set: the table shows them all. */
export function limited(s: Record<string, unknown>): string {
  const low = (key: string) => (s[key] === null ? '' : `below {${key}} or `);
  const held = s.limitHold || s.limitBack ? ', after {limitHold} and until back by {limitBack}' : '';
  return `Warn ${low('warnBelow')}above {warnAbove}, alarm ${low('alarmBelow')}above {alarmAbove}${held}.`;
}
export const sampled = (s: Record<string, unknown>) => `Sampled at {rateHz}. ${limited(s)}`;

/** A positive number with its reason when it is not. */
export const positive = (max: number, why = 'Give a value above 0.') =>
  z.number('Give a number.').positive(why).max(max, `At most ${max}.`);

/** A finite number with bounds far out. */
export const bounded = z.number('Give a number.').min(-1e9).max(1e9);
