import { channelsOf as inCondition } from '$core/condition/condition';
import type { Board } from '$contract/board';
import type { Channel } from '$contract/channel';
import { planConditions, type Plan } from '$contract/plan';
import { ruleReads, ruleText, type Rule } from '$contract/rule';
import type { WrittenElsewhere } from './follow-units';
import { namesOf } from './patch';

/** Something that needs a channel, and what becomes of it without. */
export interface Use {
  what: string;
  before: string;
  after: string;
}

const drives = (rule: Rule, id: string) => rule.deeds.some((d) => d.output === id);

/** What uses channels that are to go, and what stops working then. */
export function usesOf(ids: readonly string[], channels: Channel[], elsewhere: WrittenElsewhere): Use[] {
  const gone = new Set(ids);
  const names = namesOf(channels);
  const nameOf = (id: string) => channels.find((c) => c.id === id)?.name ?? id;
  const list = (found: string[]) => [...new Set(found)].map(nameOf).join(', ');
  return [
    ...elsewhere.rules.flatMap(({ rule }, k): Use[] => {
      const reads = ruleReads(rule).filter((id) => gone.has(id));
      const sets = [...gone].filter((id) => drives(rule, id));
      if (reads.length + sets.length === 0) return [];
      const after = reads.length
        ? `It cannot act any more: it waits for ${list(reads)}.`
        : `It fires, but does nothing to ${list(sets)}.`;
      return [{ what: `Rule ${k + 1}`, before: ruleText(rule, names), after }];
    }),
    ...elsewhere.plans.flatMap(({ name, plan }) =>
      planUses(plan, gone, list).map((u) => ({ ...u, what: `Plan “${name}”` })),
    ),
    ...elsewhere.boards.flatMap((board) => boardUse(board, gone, list)),
  ];
}

function planUses(
  plan: Plan,
  gone: ReadonlySet<string>,
  list: (ids: string[]) => string,
): Omit<Use, 'what'>[] {
  const uses = planConditions(plan).flatMap(({ name, condition }) => {
    const found = inCondition(condition).filter((id) => gone.has(id));
    return found.length
      ? [{ before: `Its ${name} condition waits for ${list(found)}.`, after: 'It cannot be armed so.' }]
      : [];
  });
  const recorded = plan.channels.filter((id) => gone.has(id));
  if (recorded.length)
    uses.push({ before: `It records ${list(recorded)}.`, after: 'It records the others.' });
  const asked = plan.facts.flatMap((f) =>
    f.kind === 'channel' && f.channel && gone.has(f.channel) ? [f.channel] : [],
  );
  if (asked.length)
    uses.push({ before: `A fact is read from ${list(asked)}.`, after: 'It stands as “not measured”.' });
  return uses;
}

function boardUse(board: Board, gone: ReadonlySet<string>, list: (ids: string[]) => string): Use[] {
  const views = board.views.filter(
    (v) => v.channels.some((id) => gone.has(id)) || v.spots.some((s) => gone.has(s.channel)),
  );
  if (views.length === 0) return [];
  const found = views
    .flatMap((v) => [...v.channels, ...v.spots.map((s) => s.channel)])
    .filter((id) => gone.has(id));
  return [
    {
      what: `Board “${board.name}”`,
      before: `${views.map((v) => v.title || v.kind).join(', ')}: ${list(found)}`,
      after: 'These views show nothing of it.',
    },
  ];
}
