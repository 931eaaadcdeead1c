import { randomUUID } from 'node:crypto';
import { badInput, conflict, notFound } from '$core/errors';
import { sentenceFields, fieldText } from '$core/sentence/sentence';
import { nameText } from '$contract/name-text';
import { EMPTY_PLAN, Plan, planSentence, planText, startAtFault } from '$contract/plan';
import { EMPTY_RULE, Rule, ruleText } from '$contract/rule';
import * as store from '$store/entities';
import { conditionText } from '$core/condition/condition';
import { jobOf, log, type App } from '../app';
import { check, checkOrder } from '../check';
import { change, channelsOf } from './change';
import { namesOf } from './patch';

const plansOf = (app: App) => store.listPlans(app.db, jobOf(app).id);

/** @throws `not_found` */
export function planOf(app: App, id: string): store.NamedPlan {
  const found = plansOf(app).find((p) => p.id === id);
  if (!found) throw notFound('plan', id);
  return found;
}

/** Changes a plan; the one that is armed next when none is named. @throws `bad_input` with field and reason */
export async function editPlan(
  app: App,
  edit: Partial<Plan> & { name?: string },
  by: string,
  id = store.jobPlan(app.db, jobOf(app).id)!.id,
): Promise<store.NamedPlan> {
  const before = planOf(app, id);
  const { name = before.name, ...values } = edit;
  const wrong = edit.startAt === undefined ? null : startAtFault(edit.startAt, Date.now());
  if (wrong) throw badInput('time', edit.startAt, wrong);
  const after = {
    ...before,
    name: name === before.name ? name : freeName(app, name, id),
    plan: check(Plan, { ...before.plan, ...values }),
  };
  const says = `Plan “${after.name}”: ${planText(after.plan, namesOf(channelsOf(app)))}`;
  await change(app, { plans: [after] }, 'plan', id, says, by);
  return after;
}

/** @throws `conflict` when another plan has the name */
function freeName(app: App, name: string, own: string): string {
  const trimmed = check(nameText(60), name);
  if (plansOf(app).some((p) => p.id !== own && p.name === trimmed))
    throw conflict('name', `There is a plan “${trimmed}” already.`, 'Give it another name.');
  return trimmed;
}

/** Adds a plan, a copy of another where one is named, and makes it the one that is armed next. @throws `not_found`, `conflict` for a name that is taken */
export async function addPlan(
  app: App,
  { name, from }: { name: string; from?: string },
  by: string,
): Promise<store.NamedPlan> {
  const id = randomUUID();
  const plan = from ? planOf(app, from).plan : EMPTY_PLAN;
  const added = { id, name: freeName(app, name, id), plan };
  await change(app, { plans: [added] }, 'plan', id, `Plan “${added.name}” added`, by);
  store.makePlanCurrent(app.db, jobOf(app).id, id);
  return added;
}

/** @throws `conflict` for the last plan of the job */
export async function removePlan(app: App, id: string, by: string): Promise<void> {
  const { name } = planOf(app, id);
  if (plansOf(app).length < 2)
    throw conflict('plan', 'It is the only plan of the job.', 'Add another one first.');
  await change(app, { drop: { plans: [id] } }, 'plan', id, `Plan “${name}” removed`, by);
}

/** Makes a plan the one that is armed next. @throws `not_found` */
export function choosePlan(app: App, id: string, by: string): void {
  const { name } = planOf(app, id);
  store.makePlanCurrent(app.db, jobOf(app).id, id);
  log(app, 'plan', `Plan “${name}” is armed next.`, { by });
}

/** Where plans differ: one row a value, one column a plan. */
export function comparePlans(app: App): { plans: string[]; rows: { label: string; values: string[] }[] } {
  const plans = plansOf(app);
  const names = namesOf(channelsOf(app));
  const rows = sentenceFields(planSentence.schema).map((f) => ({
    label: f.info.label,
    values: plans.map((p) => fieldText(f, p.plan, names)),
  }));
  for (const [label, key] of [
    ['Start when', 'startWhen'],
    ['Stop when', 'stopWhen'],
    ['Windows when', 'windowWhen'],
  ] as const)
    rows.push({ label, values: plans.map((p) => conditionText(p.plan[key], names)) });
  rows.push({ label: 'Facts', values: plans.map((p) => p.plan.facts.map((f) => f.name).join(', ')) });
  return { plans: plans.map((p) => p.name), rows: rows.filter((r) => new Set(r.values).size > 1) };
}

const rulesOf = (app: App) => store.listRules(app.db, jobOf(app).id);
const saysRule = (app: App, rule: Rule) => ruleText(rule, namesOf(channelsOf(app)));

/** Adds a rule (id null) or changes one. @throws `bad_input` with field and reason */
export async function editRule(
  app: App,
  id: string | null,
  edit: Partial<Rule>,
  by: string,
): Promise<{ id: string; rule: Rule }> {
  const before = id === null ? null : rulesOf(app).find((r) => r.id === id);
  if (before === undefined) throw notFound('rule', id!);
  const rule = check(Rule, { ...(before?.rule ?? EMPTY_RULE), ...edit });
  const after = { id: id ?? randomUUID(), rule };
  const off = rule.off
    ? before?.rule.off
      ? ' (off)'
      : ' was switched off'
    : before?.rule.off
      ? ' was switched on'
      : '';
  await change(app, { rules: [after] }, 'rule', after.id, `Rule${off}: ${saysRule(app, rule)}`, by);
  return after;
}

/** Puts the rules into an order: they act in it. @throws `bad_input` when one is missing or named twice */
export async function orderRules(app: App, ids: string[], by: string): Promise<void> {
  checkOrder('rule', ids, rulesOf(app));
  await change(app, { ruleOrder: ids }, 'rule', '', 'Put the rules into another order.', by);
}

export async function removeRule(app: App, id: string, by: string): Promise<void> {
  const before = rulesOf(app).find((r) => r.id === id);
  if (!before) throw notFound('rule', id);
  await change(
    app,
    { drop: { rules: [id] } },
    'rule',
    id,
    `Removed the rule: ${saysRule(app, before.rule)}`,
    by,
  );
}
