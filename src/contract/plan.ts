import { EMPTY_CONDITION, Condition, channelsOf, conditionText, when } from '$core/condition/condition';
import { field, sentenceText, type Names, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import { Fact, newFact, readFact } from './fact';

const seconds = (label: string, max: number, rest: { help?: string; least?: number } = {}) =>
  field(
    z
      .number('Give a number.')
      .min(rest.least ?? 0, `At least ${rest.least ?? 0} s.`)
      .max(max, `At most ${max} s.`),
    { label, editor: 'number', unit: 's', help: rest.help },
  );
const perhaps = (label: string, unit: string, max: number, none: string, help?: string) =>
  field(z.number('Give a number.').positive('Give a value above 0.').max(max).nullable(), {
    label,
    editor: 'number',
    unit,
    none,
    help,
  });
const choice = <const T extends readonly [string, ...string[]]>(label: string, options: T, help?: string) =>
  field(z.enum(options), { label, editor: 'choice', options, help });

const DETAIL = ['all the time', 'only in windows'] as const;
const START = ['by hand', 'when', 'at a time', 'after a delay', 'when another take ends'] as const;
const STOP = ['by hand', 'when'] as const;
const AGAIN = ['once', 'a number of times', 'again and again'] as const;
const PARTS = ['one file', 'a new part at midnight', 'a new part every', 'a new part at a size of'] as const;
const SHUNTS = ['never', 'before', 'before and after'] as const;
const AT_END = [
  'run the standing studies',
  'repeat the studies of the take before',
  'write a CSV file',
  'write the spreadsheet',
] as const;
export type AtEnd = (typeof AT_END)[number];

const DAY = 86_400;

/** How a take is made. */
const PlanShape = z.strictObject({
  channels: field(z.array(z.string()).max(500), {
    label: 'Channels',
    editor: 'channels',
    help: 'None chosen means all.',
  }),
  detail: choice(
    'At their full rates',
    DETAIL,
    'In windows, the full rates are kept only around what matters; a thinned log goes on beside them.',
  ),
  logEvery: seconds('Log every', DAY, {
    least: 0.1,
    help: 'The log keeps the mean of each channel over this time, from start to end.',
  }),
  windowWhen: Condition,
  windowBefore: seconds('Before the window', 120),
  windowAfter: seconds('After it', DAY),
  start: choice('Start', START),
  startWhen: Condition,
  startAt: field(
    z
      .string()
      .trim()
      .regex(/^(\d{4}-\d\d-\d\d )?\d\d:\d\d(:\d\d)?$/, 'Write it like 06:30 or 2026-11-24 06:30:00.'),
    {
      label: 'Time',
      editor: 'text',
      help: 'In local time. Without a date the next time the clock says so.',
    },
  ),
  startDelay: seconds('Delay', 30 * DAY),
  before: field(
    z.number('Give a number.').min(0, 'At least 0 s.').max(120, 'At most 120 s are kept in memory.'),
    {
      label: 'Kept from before',
      editor: 'number',
      unit: 's',
      help: 'What happened just before the start is often what one wants to see.',
    },
  ),
  stop: choice('Stop', STOP),
  stopWhen: Condition,
  stopAfter: seconds('Seconds after', DAY),
  longest: field(
    z
      .number('Give a number.')
      .positive('Give a time above 0 s.')
      .max(DAY * 365)
      .nullable(),
    {
      label: 'Longest',
      editor: 'number',
      unit: 's',
      none: 'no set time',
    },
  ),
  mostSamples: perhaps(
    'Samples',
    'samples',
    1e12,
    'any number of samples',
    'Of the fastest channel of the take.',
  ),
  mostMb: perhaps('Size', 'MB', 1e7, 'any size'),
  again: choice('Armed', AGAIN, 'Armed again by itself after each take, until it is disarmed.'),
  times: field(z.number('Give a number.').int('Give a whole number.').min(1).max(100_000), {
    label: 'Times',
    editor: 'number',
  }),
  every: field(
    z
      .number('Give a number.')
      .positive('Give a time above 0 s.')
      .max(DAY * 30)
      .nullable(),
    {
      label: 'Every',
      editor: 'number',
      unit: 's',
      none: 'as soon as it can',
      help: 'From start to start. A plan that starts by hand starts by itself then.',
    },
  ),
  parts: choice('Kept in', PARTS, 'From part to part not a sample is lost.'),
  partEvery: seconds('Part length', DAY * 30, { least: 1 }),
  partMb: field(z.number('Give a number.').min(0.1, 'At least 0.1 MB.').max(1e6), {
    label: 'Part size',
    editor: 'number',
    unit: 'MB',
  }),
  shunts: choice(
    'Shunts',
    SHUNTS,
    'Zero and shunt of all bridges of the plan are read and kept in the take as its own proof. Nothing may load them meanwhile.',
  ),
  shuntSeconds: seconds('Each for', 60, { least: 0.5 }),
  facts: z.array(Fact).max(20, 'At most twenty facts.'),
  naming: field(z.string().trim().min(1, 'Give a pattern.').max(120), {
    label: 'Names',
    editor: 'text',
    help: 'A fact in braces is filled in; {number} counts up, {date} and {time} are those of arming.',
  }),
  folder: field(z.string().trim().max(120), {
    label: 'Folder',
    editor: 'text',
    none: 'no folder',
    help: 'Takes are listed under it; made of facts, {number}, {date} and {plan} as names are.',
  }),
  atEnd: field(z.array(z.enum(AT_END)).max(AT_END.length), {
    label: 'At its end',
    editor: 'several',
    options: AT_END,
    none: 'nothing more',
  }),
});
export type Plan = z.infer<typeof PlanShape>;

/** Plans as they were written first: a level of one channel, facts by their names. */
function upgraded(body: unknown): unknown {
  if (typeof body !== 'object' || body === null) return body;
  const {
    startChannel,
    startDirection,
    startLevel,
    stopChannel,
    stopDirection,
    stopLevel,
    stopHold,
    ...rest
  } = body as Record<string, unknown>;
  const old = (channel: unknown, test: unknown, level: unknown, hold: unknown) =>
    when(channel as string | null, test as 'rises above', level as number, {
      hold: (hold as number) || null,
    });
  return {
    ...EMPTY_PLAN,
    ...(startDirection !== undefined && {
      startWhen: old(startChannel, startDirection, startLevel, 0),
    }),
    ...(stopDirection !== undefined && {
      stopWhen: old(stopChannel, stopDirection, stopLevel, stopHold),
    }),
    ...rest,
    facts: Array.isArray(rest.facts) ? rest.facts.map(readFact) : EMPTY_PLAN.facts,
  };
}

/** @throws ZodError; a plan of an earlier version is read as what it meant */
export const Plan = z.preprocess(
  upgraded,
  PlanShape.refine((p) => new Set(p.facts.map((f) => f.name.toLowerCase())).size === p.facts.length, {
    path: ['facts'],
    message: 'Two facts have one name.',
  }),
);

/** The plan in the order in which things happen: each paragraph a sentence over the same schema, with a condition after it. */
export interface PlanPart {
  key: string;
  sentence: Sentence<typeof PlanShape>;
  condition?: { key: 'startWhen' | 'stopWhen' | 'windowWhen'; shown(plan: Plan): boolean };
  /** What follows the condition. */
  tail?: Sentence<typeof PlanShape>;
}
const said = (template: (p: Plan) => string): Sentence<typeof PlanShape> => ({
  schema: PlanShape,
  template,
});

const LATEST = 'at the latest after {longest}, {mostSamples} or {mostMb}.';

export const PLAN_PARTS: PlanPart[] = [
  {
    key: 'what',
    sentence: said((p) =>
      p.detail === 'all the time'
        ? 'Record {channels} {detail}.'
        : 'Record {channels} with a value every {logEvery}, at full rate {detail}, from {windowBefore} before to {windowAfter} after:',
    ),
    condition: { key: 'windowWhen', shown: (p) => p.detail === 'only in windows' },
  },
  {
    key: 'start',
    sentence: said((p) => {
      const how = { 'at a time': ' {startAt}', 'after a delay': ' of {startDelay}' }[p.start as string] ?? '';
      return `Keeping {before} before it, start {start}${how}${p.start === 'when' ? '' : '.'}`;
    }),
    condition: { key: 'startWhen', shown: (p) => p.start === 'when' },
  },
  {
    key: 'stop',
    sentence: said((p) => (p.stop === 'when' ? 'Stop {stop}' : `Stop {stop}, ${LATEST}`)),
    condition: { key: 'stopWhen', shown: (p) => p.stop === 'when' },
    tail: said((p) => (p.stop === 'when' ? `and {stopAfter} more, ${LATEST}` : '')),
  },
  {
    key: 'again',
    sentence: said((p) => {
      const again =
        p.again === 'once' ? '' : `${p.again === 'a number of times' ? ', {times}' : ''}, {every}`;
      const part =
        {
          'a new part every': ' {partEvery}',
          'a new part at a size of': ' {partMb}',
        }[p.parts as string] ?? '';
      return `Armed {again}${again}; kept in {parts}${part}. At its end: {atEnd}.`;
    }),
  },
  {
    key: 'proof',
    sentence: said(
      (p) =>
        `Read the bridges’ shunts {shunts}${p.shunts === 'never' ? '' : ', zero and shunt for {shuntSeconds} each'}. Name takes {naming}, in {folder}.`,
    ),
  },
];
/** All its values, for the table. */
export const planSentence: Sentence<typeof PlanShape> = said(() => '');

/** The plan as text, as it stands in the take and in reports: what is as usual is not said. */
export function planText(plan: Plan, names: Names): string {
  const usual: Record<string, boolean> = {
    again: plan.again === 'once' && plan.parts === 'one file' && plan.atEnd.length === 0,
  };
  const parts = PLAN_PARTS.filter((p) => !usual[p.key]).map(({ sentence, condition, tail }) => {
    const text = sentenceText(sentence, plan, names);
    if (!condition?.shown(plan)) return text;
    const more = tail ? ` ${sentenceText(tail, plan, names)}` : '.';
    return `${text} ${conditionText(plan[condition.key], names)}${more}`;
  });
  const facts = plan.facts.map((f) => f.name).join(', ');
  return [...parts, `Ask for ${facts || 'nothing'}.`]
    .join(' ')
    .replace(/ and 0 s more,/, ',')
    .replace(/, any number of samples(?: or any size)?\./, '.')
    .replace(/, any number of samples or /, ' or ')
    .replace(/ or any size\./, '.');
}

/** The channels its conditions wait for. */
export const waitedFor = (plan: Plan): string[] => [
  ...new Set([
    ...(plan.start === 'when' ? channelsOf(plan.startWhen) : []),
    ...(plan.stop === 'when' ? channelsOf(plan.stopWhen) : []),
    ...(plan.detail === 'only in windows' ? channelsOf(plan.windowWhen) : []),
  ]),
];

export const EMPTY_PLAN: Plan = {
  channels: [],
  detail: 'all the time',
  logEvery: 1,
  windowWhen: EMPTY_CONDITION,
  windowBefore: 2,
  windowAfter: 5,
  start: 'by hand',
  startWhen: EMPTY_CONDITION,
  startAt: '06:00',
  startDelay: 10,
  before: 2,
  stop: 'by hand',
  stopWhen: EMPTY_CONDITION,
  stopAfter: 0,
  longest: 600,
  mostSamples: null,
  mostMb: null,
  again: 'once',
  times: 3,
  every: null,
  parts: 'one file',
  partEvery: 3600,
  partMb: 1000,
  shunts: 'never',
  shuntSeconds: 2,
  facts: [newFact('Operator')],
  naming: 'Take-{number}',
  folder: '',
  atEnd: [],
};

/** Name or folder of a take from its facts, number, plan and time. What was not given is left out. */
export function takeName(
  pattern: string,
  facts: Record<string, string>,
  number: number,
  rest: { plan?: string; atMs?: number } = {},
): string {
  const at = new Date(rest.atMs ?? 0);
  const two = (n: number) => String(n).padStart(2, '0');
  const known = new Map(Object.entries(facts).map(([name, value]) => [name.toLowerCase(), value]));
  const own: Record<string, string> = {
    number: String(number),
    plan: rest.plan ?? '',
    date: `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`,
    time: `${two(at.getHours())}-${two(at.getMinutes())}`,
  };
  return pattern
    .replace(
      /\{([^{}]*)\}/g,
      (_, key: string) => own[key.toLowerCase()] ?? known.get(key.toLowerCase()) ?? '',
    )
    .trim();
}

/** The instant a “start at” means, seen from now. @returns ms, in the future unless a date is given */
export function clockStart(text: string, nowMs: number): number {
  const full = /^(\d{4})-(\d\d)-(\d\d) (\d\d):(\d\d)(?::(\d\d))?$/.exec(text);
  if (full) {
    const [y, mo, d, h, mi, s] = full.slice(1).map((t) => Number(t ?? 0));
    return new Date(y, mo - 1, d, h, mi, s).getTime();
  }
  const [h, mi, s = 0] = text.split(':').map(Number);
  const at = new Date(nowMs);
  at.setHours(h, mi, s, 0);
  if (at.getTime() <= nowMs) at.setDate(at.getDate() + 1);
  return at.getTime();
}

/** Why a plan cannot start at a time; null when it can. */
export function startAtFault(text: string, nowMs: number): string | null {
  const match = /^(?:(\d{4})-(\d\d)-(\d\d) )?(\d\d):(\d\d)(?::(\d\d))?$/.exec(text.trim());
  if (!match) return 'Write it like 06:30 or 2026-11-24 06:30:00.';
  const [y, mo, d, h, mi, s] = match.slice(1).map((t) => (t === undefined ? null : Number(t)));
  if (h! > 23 || mi! > 59 || (s ?? 0) > 59)
    return 'There is no such time: hours go to 23, minutes and seconds to 59.';
  if (y === null) return null;
  const day = new Date(y, mo! - 1, d!);
  if (day.getMonth() !== mo! - 1 || day.getDate() !== d) return 'There is no such day.';
  return clockStart(text.trim(), nowMs) <= nowMs ? 'This time has passed: give one to come.' : null;
}

/** The conditions that a plan uses as it is, with what each is for. */
export function planConditions(plan: Plan): { name: string; condition: Condition }[] {
  return [
    { name: 'start', condition: plan.startWhen, used: plan.start === 'when' },
    { name: 'stop', condition: plan.stopWhen, used: plan.stop === 'when' },
    { name: 'window', condition: plan.windowWhen, used: plan.detail === 'only in windows' },
  ].flatMap(({ used, ...rest }) => (used ? [rest] : []));
}
