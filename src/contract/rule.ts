import { Condition, EMPTY_CONDITION, channelsOf, conditionText, when } from '$core/condition/condition';
import { field, sentenceText, type Names, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';

const WHILE = ['always', 'during a take'] as const;
const CAUSES = ['when', 'once a take has run for', 'every'] as const;
const OFTEN = ['every time', 'once', 'at most every'] as const;
const DEEDS = [
  'set',
  'move',
  'bring to rest',
  'bring all outputs to rest',
  'start the take',
  'end the take',
  'record at full rate from now on',
  'record the log only from now on',
  'mark',
  'raise an alarm',
  'write into the logbook',
  'call an address',
] as const;
const AFTER = ['leave it there', 'return it to rest'] as const;

const choice = <const T extends readonly [string, ...string[]]>(label: string, options: T, help?: string) =>
  field(z.enum(options), { label, editor: 'choice', options, help });
const seconds = (label: string, help?: string) =>
  field(z.number('Give a number.').min(0.05, 'At least 0.05 s.').max(86_400, 'At most a day.'), {
    label,
    editor: 'number',
    unit: 's',
    help,
  });

/** One thing a rule does. */
export const Deed = z.strictObject({
  do: choice('Deed', DEEDS),
  output: field(z.string().nullable(), { label: 'Output', editor: 'channel', none: 'an output' }),
  value: field(z.number('Give a number.').min(-1e12).max(1e12), {
    label: 'Value',
    editor: 'number',
    unitFrom: 'output',
  }),
  within: seconds('Within', 'The output moves there in a straight line.'),
  says: field(z.string().trim().max(200), { label: 'Words', editor: 'text', none: 'the rule’s own words' }),
  address: field(
    z
      .string()
      .trim()
      .max(500)
      .refine((a) => a === '' || /^https?:\/\/\S+$/.test(a), 'Write it like http://host/path.'),
    {
      label: 'Address',
      editor: 'text',
      none: 'an address',
      help: 'What fired, when and the readings are sent to it as JSON (POST).',
    },
  ),
  after: choice('When it no longer holds', AFTER),
});
export type Deed = z.infer<typeof Deed>;

export const deedSentence: Sentence<typeof Deed> = {
  schema: Deed,
  template: ({ do: deed }) => {
    switch (deed) {
      case 'set':
        return '{do} {output} to {value} and then {after}';
      case 'move':
        return '{do} {output} to {value} within {within} and then {after}';
      case 'bring to rest':
        return '{do}: {output}';
      case 'mark':
      case 'raise an alarm':
      case 'write into the logbook':
        return '{do}: {says}';
      case 'call an address':
        return '{do}: {address}';
      default:
        return '{do}';
    }
  },
};

/** Something that happens by itself while measuring. */
const RuleShape = z.strictObject({
  /** Switched off: kept, but not watched. */
  off: z.boolean().default(false),
  active: choice('In force', WHILE),
  cause: choice('Cause', CAUSES),
  when: Condition,
  time: seconds('Time'),
  often: choice('How often', OFTEN),
  gap: seconds('At most every'),
  deeds: z.array(Deed).min(1, 'Give it something to do.').max(8, 'At most eight deeds.'),
});
export type Rule = z.infer<typeof RuleShape>;

export const newDeed = (rest: Partial<Deed> = {}): Deed => ({
  do: 'mark',
  output: null,
  value: 0,
  within: 5,
  says: '',
  address: '',
  after: 'leave it there',
  ...rest,
});
export const EMPTY_RULE: Rule = {
  off: false,
  active: 'always',
  cause: 'when',
  when: EMPTY_CONDITION,
  time: 60,
  often: 'every time',
  gap: 60,
  deeds: [newDeed()],
};

/** Rules as they were written first: a level of one channel that sets one output. */
function upgraded(body: unknown): unknown {
  if (typeof body !== 'object' || body === null || 'deeds' in body) return body;
  const { active, channel, direction, level, hysteresis, output, value, after } = body as Record<
    string,
    never
  >;
  return {
    ...EMPTY_RULE,
    active: active ?? 'always',
    when: when(channel ?? null, direction, level, { hysteresis: hysteresis || null }),
    deeds: [newDeed({ do: 'set', output: output ?? null, value, after })],
  };
}
/** @throws ZodError; a rule of an earlier version is read as what it meant */
export const Rule = z.preprocess(upgraded, RuleShape);

/** What stands before its condition, and how often it may fire. */
export const ruleSentence: Sentence<typeof RuleShape> = {
  schema: RuleShape,
  template: (r) => (r.cause === 'when' ? '{cause}' : '{cause} {time}'),
};
export const ruleEndSentence: Sentence<typeof RuleShape> = {
  schema: RuleShape,
  template: (r) => `{often}${r.often === 'at most every' ? ' {gap}' : ''}; in force {active}`,
};

/** The whole rule in words. */
export function ruleText(rule: Rule, names: Names): string {
  const cause = sentenceText(ruleSentence, rule, names);
  const condition = rule.cause === 'when' ? ` ${conditionText(rule.when, names)}` : '';
  const deeds = rule.deeds.map((d) => sentenceText(deedSentence, d, names)).join(', then ');
  return `${cause[0].toUpperCase()}${cause.slice(1)}${condition}: ${deeds} (${sentenceText(ruleEndSentence, rule, names)}).`;
}

const DRIVING: readonly string[] = ['set', 'move', 'bring to rest'];
const drives = (rule: Rule) =>
  new Set(rule.deeds.flatMap((d) => (DRIVING.includes(d.do) && d.output ? [d.output] : [])));

/** Channels and outputs a rule needs. */
export const ruleReads = (rule: Rule) => (rule.cause === 'when' ? channelsOf(rule.when) : []);

/** Every channel that a rule reads or drives, as it is written. */
export const ruleChannels = (rule: Rule): string[] => [...new Set([...ruleReads(rule), ...drives(rule)])];

export interface RuleConflict {
  rules: [string, string];
  output: string;
}
/** Pairs of rules that drive one output: they act in their order, so the later one has the last word. */
export function ruleConflicts(rules: { id: string; rule: Rule }[]): RuleConflict[] {
  return rules.flatMap(({ id, rule }, k) =>
    rules
      .slice(k + 1)
      .flatMap((other) =>
        [...drives(rule)]
          .filter((output) => drives(other.rule).has(output))
          .map((output) => ({ rules: [id, other.id] as [string, string], output })),
      ),
  );
}
