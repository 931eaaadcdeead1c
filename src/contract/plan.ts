import { DIRECTIONS } from '$core/signal/level-detector';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';

const level = z.number('Give a number.').min(-1e12).max(1e12);
const channelId = z.string().nullable();
const START = ['by hand', 'when'] as const;
const SHUNTS = ['never', 'before', 'before and after'] as const;
const STOP = ['by hand', 'when'] as const;

/** How a take is made. */
export const Plan = z
  .strictObject({
    channels: field(z.array(z.string()).max(500), {
      label: 'Channels',
      editor: 'channels',
      help: 'None chosen means all.',
    }),
    start: field(z.enum(START), { label: 'Start', editor: 'choice', options: START }),
    startChannel: field(channelId, { label: 'Start channel', editor: 'channel', none: 'a channel' }),
    startDirection: field(z.enum(DIRECTIONS), {
      label: 'Start direction',
      editor: 'choice',
      options: DIRECTIONS,
    }),
    startLevel: field(level, {
      label: 'Start level',
      editor: 'number',
      unitFrom: 'startChannel',
      help: 'The take starts at the sample that passes this level.',
    }),
    before: field(
      z.number('Give a number.').min(0, 'At least 0 s.').max(120, 'At most 120 s are kept in memory.'),
      {
        label: 'Kept from before',
        editor: 'number',
        unit: 's',
        help: 'What happened just before the start is often what one wants to see.',
      },
    ),
    stop: field(z.enum(STOP), { label: 'Stop', editor: 'choice', options: STOP }),
    stopChannel: field(channelId, { label: 'Stop channel', editor: 'channel', none: 'a channel' }),
    stopDirection: field(z.enum(DIRECTIONS), {
      label: 'Stop direction',
      editor: 'choice',
      options: DIRECTIONS,
    }),
    stopLevel: field(level, { label: 'Stop level', editor: 'number', unitFrom: 'stopChannel' }),
    stopHold: field(z.number('Give a number.').min(0, 'At least 0 s.').max(3600, 'At most 3600 s.'), {
      label: 'held for',
      editor: 'number',
      unit: 's',
      help: 'So that a short dip does not end the take.',
    }),
    longest: field(
      z
        .number('Give a number.')
        .positive('Give a time above 0 s.')
        .max(86400 * 30)
        .nullable(),
      { label: 'Longest', editor: 'number', unit: 's', none: 'no set time' },
    ),
    shunts: field(z.enum(SHUNTS).default('never'), {
      label: 'Shunts',
      editor: 'choice',
      options: SHUNTS,
      help: 'Zero and shunt of all bridges of the plan are read and kept in the take as its own proof. Nothing may load them meanwhile.',
    }),
    shuntSeconds: field(
      z.number('Give a number.').min(0.5, 'At least 0.5 s.').max(60, 'At most 60 s.').default(2),
      {
        label: 'Each for',
        editor: 'number',
        unit: 's',
      },
    ),
    facts: field(z.array(z.string().trim().min(1).max(40)).max(12), {
      label: 'Facts asked',
      editor: 'names',
      none: 'nothing',
      help: 'Asked when arming, kept in the take. Separate them by commas.',
    }),
    naming: field(z.string().trim().min(1, 'Give a pattern.').max(120), {
      label: 'Names',
      editor: 'text',
      help: 'A fact in braces is filled in; {number} counts up.',
    }),
  })
  .refine((p) => p.start !== 'when' || p.startChannel !== null, {
    path: ['startChannel'],
    message: 'Choose the channel that starts the take.',
  })
  .refine((p) => p.stop !== 'when' || p.stopChannel !== null, {
    path: ['stopChannel'],
    message: 'Choose the channel that stops the take.',
  });
export type Plan = z.infer<typeof Plan>;

export const planSentence: Sentence<typeof Plan> = {
  schema: Plan,
  template: (p) =>
    [
      'Record {channels}.',
      `Start {start}${p.start === 'when' ? ' {startChannel} {startDirection} {startLevel}' : ''}, keeping {before} before it;`,
      `stop {stop}${p.stop === 'when' ? ' {stopChannel} {stopDirection} {stopLevel} for {stopHold}' : ''} or after {longest}.`,
      `Read the bridges’ shunts {shunts}${p.shunts === 'never' || !p.shunts ? '' : ', zero and shunt for {shuntSeconds} each'}.`,
      'Ask for {facts}. Name takes {naming}.',
    ].join(' '),
};

export const EMPTY_PLAN: Plan = {
  channels: [],
  start: 'by hand',
  startChannel: null,
  startDirection: 'rises above',
  startLevel: 0,
  before: 2,
  stop: 'by hand',
  stopChannel: null,
  stopDirection: 'falls below',
  stopLevel: 0,
  stopHold: 4,
  longest: 600,
  shunts: 'never',
  shuntSeconds: 2,
  facts: ['Operator'],
  naming: 'Take-{number}',
};

const AFTER = ['leave it there', 'return it to rest'] as const;
const WHILE = ['always', 'during a take'] as const;

/** Something that happens by itself while measuring. */
export const Rule = z.strictObject({
  active: field(z.enum(WHILE), { label: 'In force', editor: 'choice', options: WHILE }),
  channel: field(channelId, { label: 'Channel', editor: 'channel', none: 'a channel' }),
  direction: field(z.enum(DIRECTIONS), { label: 'Direction', editor: 'choice', options: DIRECTIONS }),
  level: field(level, { label: 'Level', editor: 'number', unitFrom: 'channel' }),
  hysteresis: field(z.number('Give a number.').min(0, 'At least 0.').max(1e12), {
    label: 'Hysteresis',
    editor: 'number',
    unitFrom: 'channel',
    help: 'How far the signal has to come back before the rule can fire again.',
  }),
  output: field(channelId, { label: 'Output', editor: 'channel', none: 'an output' }),
  value: field(level, { label: 'Value', editor: 'number', unitFrom: 'output' }),
  after: field(z.enum(AFTER), { label: 'When it no longer holds', editor: 'choice', options: AFTER }),
});
export type Rule = z.infer<typeof Rule>;

export const ruleSentence: Sentence<typeof Rule> = {
  schema: Rule,
  template: () =>
    'When {channel} {direction} {level}, set {output} to {value}; once back by {hysteresis}, {after}. In force {active}.',
};

/** Name of a take from its facts and number. A fact that was not given is left out. */
export function takeName(pattern: string, facts: Record<string, string>, number: number): string {
  const lower = new Map(Object.entries(facts).map(([name, value]) => [name.toLowerCase(), value]));
  return pattern
    .replace(/\{([^{}]*)\}/g, (_, key: string) =>
      key.toLowerCase() === 'number' ? String(number) : (lower.get(key.toLowerCase()) ?? ''),
    )
    .trim();
}
