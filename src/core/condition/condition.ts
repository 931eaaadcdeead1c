import { field, sentenceText, type Names, type Sentence } from '../sentence/sentence';
import { z } from 'zod';
import type { Region } from './detector';

/** What can be asked of one channel. “rises” and “falls” count only after the signal was seen on the other side. */
const TESTS = [
  'rises above',
  'falls below',
  'is above',
  'is below',
  'is inside',
  'is outside',
  'climbs faster than',
  'drops faster than',
  'is yes',
  'is no',
  'turns to yes',
  'turns to no',
  'is past a warning',
  'is past an alarm',
] as const;
export type Test = (typeof TESTS)[number];

const number = () => z.number('Give a number.').min(-1e12).max(1e12);

/** One thing that can be true of one channel. */
export const Term = z.strictObject({
  channel: field(z.string().nullable(), { label: 'Channel', editor: 'channel', none: 'a channel' }),
  test: field(z.enum(TESTS), {
    label: 'Test',
    editor: 'choice',
    options: TESTS,
    help: '“rises”, “falls” and “turns” wait until the signal was seen on the other side; “is” holds at once.',
  }),
  level: field(number(), { label: 'Level', editor: 'number', unitFrom: 'channel' }),
  high: field(number(), { label: 'Upper end', editor: 'number', unitFrom: 'channel' }),
  over: field(z.number('Give a number.').min(0.001, 'At least 1 ms.').max(3600, 'At most 3600 s.'), {
    label: 'Slope over',
    editor: 'number',
    unit: 's',
    help: 'The slope is that of the straight line through the readings of this time.',
  }),
  hold: field(z.number('Give a number.').min(0, 'At least 0 s.').max(86_400, 'At most a day.').nullable(), {
    label: 'Held for',
    editor: 'number',
    unit: 's',
    none: 'at once',
    help: 'It counts only after it was true this long without a break.',
  }),
  hysteresis: field(z.number('Give a number.').min(0, 'At least 0.').max(1e12).nullable(), {
    label: 'Hysteresis',
    editor: 'number',
    unitFrom: 'channel',
    none: 'no hysteresis',
    help: 'How far the signal has to come back before it can count again.',
  }),
});
export type Term = z.infer<typeof Term>;

export const isBand = (test: Test) => test === 'is inside' || test === 'is outside';
export const isSlope = (test: Test) => test === 'climbs faster than' || test === 'drops faster than';
export const isLevel = (test: Test) =>
  ['rises above', 'falls below', 'is above', 'is below'].includes(test) || isSlope(test);
/** Whether it waits for a change, instead of holding from the start. */
export const isEntering = (test: Test) =>
  ['rises above', 'falls below', 'turns to yes', 'turns to no'].includes(test);

export const termSentence: Sentence<typeof Term> = {
  schema: Term,
  template: (t) => {
    const value = isBand(t.test) ? ' {level} to {high}' : isLevel(t.test) ? ' {level}' : '';
    const slope = isSlope(t.test) ? ' a second, over {over}' : '';
    const held = t.hold === null ? ' {hold}' : ' for {hold}';
    const back =
      !isLevel(t.test) && !isBand(t.test)
        ? ''
        : t.hysteresis === null
          ? ', {hysteresis}'
          : ', hysteresis {hysteresis}';
    return `{channel} {test}${value}${slope}${held}${back}`;
  },
};

const JOINS = ['all', 'any'] as const;

/** Several terms, of which all or any have to hold at one time. */
export const Condition = z.strictObject({
  join: z.enum(JOINS),
  terms: z.array(Term).min(1, 'Give at least one condition.').max(8, 'At most eight conditions.'),
});
export type Condition = z.infer<typeof Condition>;

export const EMPTY_TERM: Term = {
  channel: null,
  test: 'rises above',
  level: 0,
  high: 1,
  over: 1,
  hold: null,
  hysteresis: null,
};
export const EMPTY_CONDITION: Condition = { join: 'all', terms: [EMPTY_TERM] };
/** @param rest what differs from a plain level */
export const when = (channel: string | null, test: Test, level = 0, rest: Partial<Term> = {}): Condition => ({
  join: 'all',
  terms: [{ ...EMPTY_TERM, channel, test, level, ...rest }],
});

/** The condition in words: “Shaft speed rises above 5 rpm at once, no hysteresis”. */
export const conditionText = (condition: Condition, names: Names): string =>
  condition.terms
    .map((term) =>
      sentenceText(termSentence, term, names).replace(/ at once(, no hysteresis)?$|, no hysteresis$/, ''),
    )
    .join(condition.join === 'all' ? ' and ' : ' or ');

/** The channels a condition reads. */
export const channelsOf = (condition: Condition): string[] => [
  ...new Set(condition.terms.flatMap((t) => t.channel ?? [])),
];

/** What a term is about as a part of an axis: that of the values, of the slope, or of yes (1) and no (0).
 *  @returns null for a term about the channel's limits */
export function regionOf({ test, level, high, hysteresis }: Term): Region | null {
  const outside = (low: number, top: number, back = hysteresis ?? 0): Region => ({
    low,
    high: top,
    inside: false,
    hysteresis: back,
  });
  switch (test) {
    case 'rises above':
    case 'is above':
    case 'climbs faster than':
      return outside(-Infinity, level);
    case 'falls below':
    case 'is below':
      return outside(level, Infinity);
    case 'drops faster than':
      return outside(-level, Infinity);
    case 'is outside':
      return outside(Math.min(level, high), Math.max(level, high));
    case 'is inside':
      return { ...outside(Math.min(level, high), Math.max(level, high)), inside: true };
    case 'is yes':
    case 'turns to yes':
      return outside(-Infinity, 0.5, 0);
    case 'is no':
    case 'turns to no':
      return outside(0.5, Infinity, 0);
    default:
      return null;
  }
}

/** Why a term cannot come true with values in this range, or is true whatever they are; null when it can be both. */
export function neverOrAlways(term: Term, range: { min: number; max: number }): 'never' | 'always' | null {
  const region = regionOf(term);
  if (!region || isSlope(term.test) || !(isLevel(term.test) || isBand(term.test))) return null;
  const { low, high, inside } = region;
  const can = inside ? range.max >= low && range.min <= high : range.max > high || range.min < low;
  const canNot = inside ? range.min < low || range.max > high : range.min <= high && range.max >= low;
  return !can ? 'never' : !canNot ? 'always' : null;
}
