import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  CONDITION_KINDS,
  NOTHING_KNOWN,
  TAKE_GROUPS,
  TAKE_ORDERS,
  TakeFilter,
  filterTakes,
  filterText,
  groupOfTake,
  orderTakes,
  type Condition,
  type TakeLine,
} from '$contract/take-list';

const NOW = Date.UTC(2027, 2, 14, 12);
const line = (rest: Partial<TakeLine> = {}): TakeLine => ({ ...NOTHING_KNOWN, id: 'x', number: 1, name: 'CP-01', folder: '', state: 'complete', startedAt: NOW, durationMs: 60_000, tags: [], bytes: 1, ...rest }); // prettier-ignore
const meets = (take: TakeLine, kind: string, settings: Record<string, unknown>) =>
  filterTakes([take], { words: '', conditions: [{ kind, settings }] }, NOW).length === 1;

const texts = fc.constantFrom('', 'Batch 4', 'ÉTÉ', 'été', 'CP-10', 'CP-9', '4', '3,5', '−2', 'نص عربي', '🛠 rig', 'a'.repeat(200)); // prettier-ignore
const lines = fc.array(
  fc.record({
    id: fc.uuid(),
    number: fc.nat(5000),
    name: texts,
    folder: texts,
    startedAt: fc.integer({ min: 0, max: NOW }),
    durationMs: fc.nat(1e7),
    tags: fc.array(texts, { maxLength: 2 }),
    facts: fc.dictionary(fc.constantFrom('Batch', 'Operator'), texts, { maxKeys: 2 }),
    plan: texts,
    notes: fc.array(texts, { maxLength: 2 }),
  }),
  { maxLength: 25 },
);
const made = lines.map((all) => all.map((rest) => line(rest)));

describe('finding', () => {
  test('every take is found by any of its own words, whatever their case', () => {
    fc.assert(
      fc.property(made, fc.nat(), (takes, pick) => {
        if (takes.length === 0) return;
        const wanted = takes[pick % takes.length];
        const words = [wanted.name, wanted.folder, ...Object.values(wanted.facts), ...wanted.notes].find((w) => w.trim()) ?? ''; // prettier-ignore
        expect(filterTakes(takes, { words: words.toUpperCase(), conditions: [] }, NOW)).toContain(wanted);
        expect(filterTakes(takes, { words: words.toLowerCase(), conditions: [] }, NOW)).toContain(wanted);
      }),
    );
  });
  test('what is found stands in its former order, and more words find no more', () => {
    fc.assert(
      fc.property(made, texts, texts, (takes, a, b) => {
        const one = filterTakes(takes, { words: a, conditions: [] }, NOW);
        const both = filterTakes(takes, { words: `${a} ${b}`, conditions: [] }, NOW);
        expect(takes.filter((t) => one.includes(t))).toEqual(one);
        for (const t of both) expect(one).toContain(t);
      }),
    );
  });
  test('a condition and its opposite part the takes in two', () => {
    const pairs: [Condition, Condition][] = [
      [{ kind: 'fact', settings: { fact: 'Batch', test: 'is', value: '4' } }, { kind: 'fact', settings: { fact: 'Batch', test: 'is not', value: '4' } }],
      [{ kind: 'tag', settings: { test: 'is', tag: 'été' } }, { kind: 'tag', settings: { test: 'is not', tag: 'été' } }],
      [{ kind: 'folder', settings: { test: 'is', folder: 'Batch 4' } }, { kind: 'folder', settings: { test: 'is not', folder: 'Batch 4' } }],
      [{ kind: 'verdict', settings: { test: 'is', verdict: 'not judged' } }, { kind: 'verdict', settings: { test: 'is not', verdict: 'not judged' } }],
    ]; // prettier-ignore
    fc.assert(
      fc.property(made, fc.constantFrom(...pairs), (takes, [is, isNot]) => {
        const found = (c: Condition) => filterTakes(takes, { words: '', conditions: [c] }, NOW);
        expect(found(is).length + found(isNot).length).toBe(takes.length);
      }),
    );
  });

  test('facts are compared as people write them: names and values without case, numbers with a comma or a true minus', () => {
    const take = line({ facts: { Batch: '3,5', Adhesive: 'Epoxy EP-7', Offset: '−2' } });
    expect(meets(take, 'fact', { fact: 'batch', test: 'is above', value: '3.4' })).toBe(true);
    expect(meets(take, 'fact', { fact: 'Batch', test: 'is below', value: '3,5' })).toBe(false);
    expect(meets(take, 'fact', { fact: 'Offset', test: 'is below', value: '-1' })).toBe(true);
    expect(meets(take, 'fact', { fact: 'adhesive', test: 'contains', value: 'ep-7' })).toBe(true);
    expect(meets(take, 'fact', { fact: 'Adhesive', test: 'is above', value: '1' })).toBe(false);
    expect(meets(take, 'fact', { fact: 'Hull', test: 'is', value: '' })).toBe(false);
    expect(meets(take, 'fact', { fact: 'Hull', test: 'is not', value: 'blue' })).toBe(true);
  });
  test('days and lengths at their very ends', () => {
    expect(meets(line({ startedAt: NOW - 7 * 86_400_000 }), 'last days', { days: 7 })).toBe(true);
    expect(meets(line({ startedAt: NOW - 7 * 86_400_000 - 1 }), 'last days', { days: 7 })).toBe(false);
    const day = line({ startedAt: Date.UTC(2027, 2, 14, 23, 59, 59) });
    expect(meets(day, 'between', { from: '2027-03-14', to: '2027-03-14' })).toBe(true);
    expect(meets(day, 'between', { from: '2027-03-15', to: '2027-03-20' })).toBe(false);
    expect(meets(line(), 'length', { test: 'longer than', seconds: 60 })).toBe(false);
    expect(meets(line(), 'length', { test: 'shorter than', seconds: 60.001 })).toBe(true);
  });
  test('origins: recorded here, brought in, cut off, mended', () => {
    const of = (take: TakeLine) => ['recorded here', 'brought in', 'interrupted', 'mended'].filter((origin) => meets(take, 'origin', { test: 'is', origin })); // prettier-ignore
    expect(of(line())).toEqual(['recorded here']);
    expect(of(line({ from: 'log.csv', mended: true }))).toEqual(['brought in', 'mended']);
    expect(of(line({ state: 'interrupted' }))).toEqual(['recorded here', 'interrupted']);
  });
  test('a condition of a later version is no reason to show nothing', () => {
    expect(
      filterTakes([line()], { words: '', conditions: [{ kind: 'moon phase', settings: {} }] }, NOW),
    ).toHaveLength(1);
  });
});

describe('conditions as sentences', () => {
  test('each says itself with its usual settings, and is kept by its schema', () => {
    for (const { kind, defaults, sentence } of CONDITION_KINDS) {
      expect(sentence.schema.safeParse(defaults).success, kind).toBe(true);
      expect(TakeFilter.safeParse({ conditions: [{ kind, settings: defaults }] }).success, kind).toBe(true);
      expect(
        TakeFilter.safeParse({ conditions: [{ kind, settings: { ...defaults, more: 1 } }] }).success,
        kind,
      ).toBe(false);
      expect(filterText({ words: '', conditions: [{ kind, settings: defaults }] }).length).toBeGreaterThan(5);
    }
  });
  test('the whole is one sentence', () => {
    const conditions = [
      { kind: 'fact', settings: { fact: 'batch', test: 'is', value: '4' } },
      { kind: 'verdict', settings: { test: 'is not', verdict: 'void' } },
      { kind: 'last days', settings: { days: 7 } },
      { kind: 'length', settings: { test: 'longer than', seconds: 60 } },
      { kind: 'channel', settings: { channel: 'Shaft torque' } },
    ];
    expect(filterText({ words: '', conditions })).toBe('batch is 4, verdict is not void, in the last 7 days, longer than 60 s, holds Shaft torque'); // prettier-ignore
    expect(filterText({ words: ' night ', conditions: [] })).toBe('“night”');
    expect(filterText({ words: '', conditions: [] })).toBe('all takes');
  });
  test('too many, too long, of no kind: refused', () => {
    const one = { kind: 'last days', settings: { days: 1 } };
    expect(TakeFilter.safeParse({ conditions: Array.from({ length: 21 }, () => one) }).success).toBe(false);
    expect(TakeFilter.safeParse({ words: 'a'.repeat(201) }).success).toBe(false);
    expect(
      TakeFilter.safeParse({ conditions: [{ kind: 'last days', settings: { days: -1 } }] }).success,
    ).toBe(false);
  });
});

describe('order and groups', () => {
  test('any order has every take once; the newest first is the oldest first turned round', () => {
    fc.assert(
      fc.property(made, fc.constantFrom(...TAKE_ORDERS, 'fact:Batch', 'nonsense'), (takes, order) => {
        const ordered = orderTakes(takes, order);
        expect([...ordered].sort((a, b) => (a.id < b.id ? -1 : 1))).toEqual([...takes].sort((a, b) => (a.id < b.id ? -1 : 1))); // prettier-ignore
        expect(orderTakes(takes, 'newest').map((t) => [t.startedAt, t.number])).toEqual(orderTakes(takes, 'oldest').reverse().map((t) => [t.startedAt, t.number])); // prettier-ignore
      }),
    );
  });
  test('names and facts are ordered as people count; those without the fact come last', () => {
    const names = ['CP-10', 'cp-9', 'CP-1'].map((name, k) => line({ name, id: String(k) }));
    expect(orderTakes(names, 'name').map((t) => t.name)).toEqual(['CP-1', 'cp-9', 'CP-10']);
    const facts = ['12', undefined, '3', '3a'].map((b, k) =>
      line({ id: String(k), facts: b ? { Batch: b } : {} }),
    );
    expect(orderTakes(facts, 'fact:Batch').map((t) => t.facts.Batch)).toEqual(['3', '3a', '12', undefined]);
  });
  test('a take stands under its folder, day, plan, verdict or fact; under nothing where it has none', () => {
    const take = line({ folder: 'Batch 4', plan: 'Pull', facts: { Operator: 'Ada' }, judgement: { at: 1, by: 'Bo', verdict: 'void', reason: 'x' } }); // prettier-ignore
    expect(TAKE_GROUPS.map((g) => groupOfTake(take, g))).toEqual([
      'Batch 4',
      '2027-03-14',
      'Pull',
      'void',
      '',
    ]);
    expect(groupOfTake(take, 'fact:Operator')).toBe('Ada');
    expect(groupOfTake(take, 'fact:Hull')).toBe('');
    expect(groupOfTake(line(), 'verdict')).toBe('not judged');
  });
});
