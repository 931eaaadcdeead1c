import { z } from 'zod';
import { field, sentenceText, NO_NAMES, type Sentence } from '$core/sentence/sentence';
import type { Judgement, TakeState } from './take';

/** What is found in a take without opening it. */
export interface TakeAbout {
  facts: Record<string, string>;
  channels: { name: string; unit: string }[];
  /** What people wrote on its time axis. */
  notes: string[];
  plan: string;
  /** The file it was brought in from; null where it was recorded here. */
  from: string | null;
  judgement: Judgement | null;
  mended: boolean;
}
export const NOTHING_KNOWN: TakeAbout = {
  facts: {},
  channels: [],
  notes: [],
  plan: '',
  from: null,
  judgement: null,
  mended: false,
};

/** A take as it stands on the list. */
export interface TakeLine extends TakeAbout {
  id: string;
  number: number;
  name: string;
  folder: string;
  state: TakeState;
  startedAt: number;
  durationMs: number;
  tags: string[];
  bytes: number;
}

/** A kind of condition that a take meets or not, as a part of a sentence. */
interface ConditionKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  title: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  /** @param now ms */
  holds(take: TakeLine, settings: z.infer<S>, now: number): boolean;
}
const conditionKind = <S extends z.ZodObject>(of: ConditionKind<S>) => of as unknown as ConditionKind;

const IS = ['is', 'is not'] as const;
const is = (label = 'Test') => field(z.enum(IS), { label, editor: 'choice', options: IS });
/** A text of which the page offers those that there are. */
const oneOf = (label: string, ask: string) =>
  field(z.string().trim().max(200), { label, editor: 'choice', options: { ask, free: true }, none: '…' });
const same = (a: string, b: string) => plain(a) === plain(b);
const met = (test: (typeof IS)[number], holds: boolean) => holds === (test === 'is');

const FACT_TESTS = ['is', 'is not', 'contains', 'is above', 'is below'] as const;
const OUTCOMES = ['good', 'doubtful', 'void', 'not judged'] as const;
const LENGTHS = ['longer than', 'shorter than'] as const;
const ORIGINS = ['recorded here', 'brought in', 'interrupted', 'mended'] as const;
const day = (label: string) =>
  field(z.string().regex(/^\d{4}-\d\d-\d\d$/, 'Give a day.'), { label, editor: 'day' });

/** All kinds of conditions, in the order they are offered. */
export const CONDITION_KINDS: readonly ConditionKind[] = [
  conditionKind({
    kind: 'fact',
    title: 'a fact',
    sentence: {
      schema: z.strictObject({
        fact: oneOf('Fact', 'facts'),
        test: field(z.enum(FACT_TESTS), { label: 'Test', editor: 'choice', options: FACT_TESTS }),
        value: oneOf('Value', 'values'),
      }),
      template: () => '{fact} {test} {value}',
    },
    defaults: { fact: '', test: 'is', value: '' },
    holds({ facts }, { fact, test, value }) {
      const held = Object.entries(facts).find(([name]) => same(name, fact))?.[1];
      if (held === undefined) return test === 'is not';
      const [a, b] = [held, value].map((t) => Number(t.replace(',', '.').replace('−', '-')));
      switch (test) {
        case 'is':
        case 'is not':
          return met(test, same(held, value));
        case 'contains':
          return plain(held).includes(plain(value));
        case 'is above':
          return a > b;
        case 'is below':
          return a < b;
      }
    },
  }),
  conditionKind({
    kind: 'verdict',
    title: 'its verdict',
    sentence: {
      schema: z.strictObject({
        test: is(),
        verdict: field(z.enum(OUTCOMES), { label: 'Verdict', editor: 'choice', options: OUTCOMES }),
      }),
      template: () => 'verdict {test} {verdict}',
    },
    defaults: { test: 'is not', verdict: 'void' },
    holds: ({ judgement }, { test, verdict }) => met(test, (judgement?.verdict ?? 'not judged') === verdict),
  }),
  conditionKind({
    kind: 'channel',
    title: 'a channel it holds',
    sentence: {
      schema: z.strictObject({ channel: oneOf('Channel', 'channels') }),
      template: () => 'holds {channel}',
    },
    defaults: { channel: '' },
    holds: ({ channels }, { channel }) => channels.some((c) => same(c.name, channel)),
  }),
  conditionKind({
    kind: 'last days',
    title: 'how long ago',
    sentence: {
      schema: z.strictObject({
        days: field(z.number().positive('Give more than 0 days.').max(36_500), {
          label: 'In the last',
          editor: 'number',
          unit: 'days',
        }),
      }),
      template: () => 'in the last {days}',
    },
    defaults: { days: 7 },
    holds: ({ startedAt }, { days }, now) => startedAt >= now - days * 86_400_000,
  }),
  conditionKind({
    kind: 'between',
    title: 'from one day to another',
    sentence: {
      schema: z.strictObject({ from: day('From'), to: day('To') }),
      template: () => 'from {from} to {to}',
    },
    defaults: { from: '2026-01-01', to: '2026-12-31' },
    holds({ startedAt }, { from, to }) {
      const own = dayOf(startedAt);
      return own >= from && own <= to;
    },
  }),
  conditionKind({
    kind: 'length',
    title: 'how long it is',
    sentence: {
      schema: z.strictObject({
        test: field(z.enum(LENGTHS), { label: 'Test', editor: 'choice', options: LENGTHS }),
        seconds: field(z.number().min(0).max(1e9), { label: 'Length', editor: 'number', unit: 's' }),
      }),
      template: () => '{test} {seconds}',
    },
    defaults: { test: 'longer than', seconds: 60 },
    holds: ({ durationMs }, { test, seconds }) =>
      test === 'longer than' ? durationMs > seconds * 1000 : durationMs < seconds * 1000,
  }),
  conditionKind({
    kind: 'tag',
    title: 'a tag',
    sentence: {
      schema: z.strictObject({ test: is(), tag: oneOf('Tag', 'tags') }),
      template: () => 'it {test} tagged {tag}',
    },
    defaults: { test: 'is', tag: '' },
    holds: ({ tags }, { test, tag }) =>
      met(
        test,
        tags.some((t) => same(t, tag)),
      ),
  }),
  conditionKind({
    kind: 'folder',
    title: 'its folder',
    sentence: {
      schema: z.strictObject({ test: is(), folder: oneOf('Folder', 'folders') }),
      template: () => 'folder {test} {folder}',
    },
    defaults: { test: 'is', folder: '' },
    holds: (take, { test, folder }) => met(test, same(take.folder, folder)),
  }),
  conditionKind({
    kind: 'plan',
    title: 'its plan',
    sentence: {
      schema: z.strictObject({ test: is(), plan: oneOf('Plan', 'plans') }),
      template: () => 'plan {test} {plan}',
    },
    defaults: { test: 'is', plan: '' },
    holds: (take, { test, plan }) => met(test, same(take.plan, plan)),
  }),
  conditionKind({
    kind: 'origin',
    title: 'where it comes from',
    sentence: {
      schema: z.strictObject({
        test: is(),
        origin: field(z.enum(ORIGINS), { label: 'Origin', editor: 'choice', options: ORIGINS }),
      }),
      template: () => 'it {test} {origin}',
    },
    defaults: { test: 'is', origin: 'brought in' },
    holds: ({ from, state, mended }, { test, origin }) =>
      met(
        test,
        {
          'recorded here': from === null,
          'brought in': from !== null,
          interrupted: state === 'interrupted',
          mended,
        }[origin],
      ),
  }),
];

/** A condition as it is kept. */
const Condition = z
  .strictObject({ kind: z.string().max(40), settings: z.record(z.string().max(40), z.unknown()) })
  .superRefine(({ kind, settings }, context) => {
    const found = CONDITION_KINDS.find((k) => k.kind === kind);
    const issue = found
      ? found.sentence.schema.safeParse(settings).error?.issues[0]
      : { message: 'There is no such condition.' };
    if (issue) context.addIssue({ code: 'custom', message: issue.message, input: settings });
  });
export type Condition = z.infer<typeof Condition>;

/** Which takes are meant: all whose words and conditions hold. */
export const TakeFilter = z.strictObject({
  words: z.string().max(200).default(''),
  conditions: z.array(Condition).max(20).default([]),
});
export type TakeFilter = z.infer<typeof TakeFilter>;
export const ALL_TAKES: TakeFilter = { words: '', conditions: [] };

/** Letters as they are compared: neither case nor accents count. */
const plain = (text: string): string =>
  // Most texts have no accents, and taking them apart is what costs.
  ASCII.test(text)
    ? text.toLowerCase().trim()
    : text
        .normalize('NFKD')
        .replace(/\p{M}+/gu, '')
        .toLocaleLowerCase('en')
        .trim();
const ASCII = /^[\x20-\x7e\n]*$/;

const dayOf = (ms: number) => new Date(ms).toISOString().slice(0, 10);

/** All words that a take is found by. */
const searched = (t: TakeLine): string =>
  plain(
    [
      t.name,
      `no. ${t.number}`,
      t.folder,
      t.plan,
      t.from ?? '',
      t.judgement?.verdict ?? '',
      t.judgement?.reason ?? '',
      ...t.tags,
      ...Object.entries(t.facts).flat(),
      ...t.channels.map((c) => c.name),
      ...t.notes,
    ].join('\n'),
  );
/** Lines do not change: each is read into words once. */
const words = new WeakMap<TakeLine, string>();
function wordsOf(take: TakeLine): string {
  const known = words.get(take) ?? searched(take);
  words.set(take, known);
  return known;
}

/** Takes that a filter means, in their order. @param now ms */
export function filterTakes(takes: readonly TakeLine[], filter: TakeFilter, now: number): TakeLine[] {
  const wanted = plain(filter.words).split(/\s+/).filter(Boolean);
  const conditions = filter.conditions.flatMap(({ kind, settings }) => {
    const found = CONDITION_KINDS.find((k) => k.kind === kind);
    return found ? [(take: TakeLine) => found.holds(take, settings, now)] : [];
  });
  return takes.filter(
    (take) =>
      conditions.every((holds) => holds(take)) &&
      (wanted.length === 0 || wanted.every((w) => wordsOf(take).includes(w))),
  );
}

/** Conditions as words: “batch is 4, verdict is not void”. */
export function filterText({ words, conditions }: TakeFilter): string {
  const said = conditions.map(({ kind, settings }) =>
    sentenceText(CONDITION_KINDS.find((k) => k.kind === kind)!.sentence, settings, NO_NAMES),
  );
  return [...(words.trim() ? [`“${words.trim()}”`] : []), ...said].join(', ') || 'all takes';
}

/** By what takes are ordered and grouped: a property of all, or “fact:” and the name of one. */
export const TAKE_ORDERS = ['newest', 'oldest', 'name', 'length'] as const;
export const TAKE_GROUPS = ['folder', 'day', 'plan', 'verdict', 'nothing'] as const;

const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Takes in an order. @param order one of TAKE_ORDERS, or “fact:” and a name: those without it come last */
export function orderTakes(takes: readonly TakeLine[], order: string): TakeLine[] {
  const newest = (a: TakeLine, b: TakeLine) => b.startedAt - a.startedAt || b.number - a.number;
  const fact = order.startsWith('fact:') ? order.slice(5) : null;
  const compare: Record<string, (a: TakeLine, b: TakeLine) => number> = {
    newest,
    oldest: (a, b) => -newest(a, b),
    name: (a, b) => byName.compare(a.name, b.name) || newest(a, b),
    length: (a, b) => b.durationMs - a.durationMs || newest(a, b),
  };
  return [...takes].sort(
    fact === null
      ? (compare[order] ?? newest)
      : (a, b) => {
          const [x, y] = [a.facts[fact], b.facts[fact]];
          if (x === undefined || y === undefined)
            return Number(x === undefined) - Number(y === undefined) || newest(a, b);
          return byName.compare(x, y) || newest(a, b);
        },
  );
}

/** What a take stands under. @param group one of TAKE_GROUPS, or “fact:” and a name */
export function groupOfTake(take: TakeLine, group: string): string {
  if (group.startsWith('fact:')) return take.facts[group.slice(5)] ?? '';
  switch (group) {
    case 'folder':
      return take.folder;
    case 'day':
      return dayOf(take.startedAt);
    case 'plan':
      return take.plan;
    case 'verdict':
      return take.judgement?.verdict ?? 'not judged';
    default:
      return '';
  }
}
