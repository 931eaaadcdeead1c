import { randomUUID } from 'node:crypto';
import { notFound } from '$core/errors';
import { sentenceText, type Sentence } from '$core/sentence/sentence';
import { Plan, Rule, planSentence, ruleSentence } from '$contract/plan';
import * as store from '$store/entities';
import type { z } from 'zod';
import { jobOf, type App } from '../app';
import { BENCH, change, channelsOf, check, namesOf } from './change';

const says = <S extends z.ZodObject>(app: App, sentence: Sentence<S>, value: z.infer<S>) =>
  sentenceText(sentence, value, namesOf(channelsOf(app)));

/** @throws `bad_input` with field and reason */
export async function editPlan(
  app: App,
  edit: Partial<Plan> & { name?: string },
  by = BENCH,
): Promise<store.NamedPlan> {
  const before = store.jobPlan(app.db, jobOf(app).id)!;
  const { name = before.name, ...values } = edit;
  const after = { ...before, name, plan: check(Plan, { ...before.plan, ...values }) };
  await change(
    app,
    { plan: after },
    'plan',
    before.id,
    `Plan “${name}”: ${says(app, planSentence, after.plan)}`,
    by,
  );
  return after;
}

/** Adds a rule (id null) or changes one. @throws `bad_input` with field and reason */
export async function editRule(
  app: App,
  id: string | null,
  edit: Partial<Rule>,
  by = BENCH,
): Promise<{ id: string; rule: Rule }> {
  const before = id === null ? null : store.listRules(app.db, jobOf(app).id).find((r) => r.id === id);
  if (before === undefined) throw notFound('rule', id!);
  const rule = check(Rule, { ...(before?.rule ?? NEW_RULE), ...edit });
  const after = { id: id ?? randomUUID(), rule };
  await change(app, { rules: [after] }, 'rule', after.id, `Rule: ${says(app, ruleSentence, rule)}`, by);
  return after;
}

const NEW_RULE: Rule = {
  active: 'always',
  channel: null,
  direction: 'rises above',
  level: 0,
  hysteresis: 0,
  output: null,
  value: 0,
  after: 'return it to rest',
};

export async function removeRule(app: App, id: string, by = BENCH): Promise<void> {
  const before = store.listRules(app.db, jobOf(app).id).find((r) => r.id === id);
  if (!before) throw notFound('rule', id);
  await change(
    app,
    { drop: { rules: [id] } },
    'rule',
    id,
    `Removed the rule: ${says(app, ruleSentence, before.rule)}`,
    by,
  );
}
