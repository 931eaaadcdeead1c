import type { Followed } from '$contract/api/setup';
import { conflict } from '$core/errors';
import { isBand, isLevel, isSlope, type Condition, type Term } from '$core/condition/condition';
import { compileExpression } from '$core/expression/expression';
import { quantityOf, unitConversion } from '$core/quantities/quantities';
import type { Board, View } from '$contract/board';
import { commonOf, roleOf, type Channel } from '$contract/channel';
import type { Plan } from '$contract/plan';
import { ruleText, type Rule } from '$contract/rule';
import { conditionText } from '$core/condition/condition';
import { namesOf, type SetupPatch } from './patch';
import type { NamedPlan } from '$store/entities';

/** What stands in a channel's unit besides the channel itself. */
export interface WrittenElsewhere {
  rules: { id: string; rule: Rule }[];
  plans: NamedPlan[];
  boards: Board[];
}

interface NewUnit {
  from: string;
  to: string;
}

/** Brings all that is written in the units of some channels along when these change: rules, plans and boards as a part of the same patch,
 *  so that it is undone as one.
 *  @param before channels as they were @param after as they will be @throws `conflict` naming what cannot be converted */
export function followUnits(
  before: Channel[],
  after: Channel[],
  elsewhere: WrittenElsewhere,
): { patch: Pick<SetupPatch, 'rules' | 'plans' | 'boards'>; followed: Followed[] } {
  const units = newUnits(before, after);
  const patch = { rules: [] as WrittenElsewhere['rules'], plans: [] as NamedPlan[], boards: [] as Board[] };
  const followed: Followed[] = [];
  if (units.size === 0) return { patch, followed };
  const [was, is] = [namesOf(before), namesOf(after)];
  elsewhere.rules.forEach(({ id, rule }, k) => {
    const what = `Rule ${k + 1}`;
    const next = ruleIn(rule, units, what, before);
    if (next === rule) return;
    patch.rules.push({ id, rule: next });
    followed.push({ what, before: ruleText(rule, was), after: ruleText(next, is) });
  });
  for (const named of elsewhere.plans) {
    const what = `Plan “${named.name}”`;
    const plan = planIn(named.plan, units, what, before);
    if (plan === named.plan) continue;
    patch.plans.push({ ...named, plan });
    for (const [key, used] of CONDITIONS)
      if (plan[key] !== named.plan[key] && used(plan))
        followed.push({
          what,
          before: conditionText(named.plan[key], was),
          after: conditionText(plan[key], is),
        });
  }
  for (const board of elsewhere.boards) {
    const views = board.views.map((view) => viewIn(view, units));
    if (views.every((v, k) => v === board.views[k])) continue;
    patch.boards.push({ ...board, views });
    followed.push({ what: `Board “${board.name}”`, before: 'ranges of its views', after: 'converted' });
  }
  return { patch, followed };
}

const CONDITIONS: [key: 'startWhen' | 'stopWhen' | 'windowWhen', used: (p: Plan) => boolean][] = [
  ['startWhen', (p) => p.start === 'when'],
  ['stopWhen', (p) => p.stop === 'when'],
  ['windowWhen', (p) => p.detail === 'only in windows'],
];

function newUnits(before: Channel[], after: Channel[]): Map<string, NewUnit> {
  const units = new Map<string, NewUnit>();
  const later = new Map(after.map((c) => [c.id, c]));
  for (const c of before) {
    const next = later.get(c.id);
    const [from, to] = [commonOf(c).unit, next ? commonOf(next).unit : commonOf(c).unit];
    if (from !== to) units.set(c.id, { from, to });
  }
  return units;
}

const tidy = (value: number) => Number(value.toPrecision(9));

/** @throws `conflict` for a unit of another quantity: a level in it would mean something else */
function conversion({ from, to }: NewUnit, what: string, name: string) {
  if (quantityOf(from) !== quantityOf(to))
    throw conflict(
      name,
      `${what} has a value of it in ${from}, which cannot be converted to ${to}.`,
      `Change ${what.charAt(0).toLowerCase()}${what.slice(1)} first, or take the channel out of it.`,
    );
  const { factor, offset } = unitConversion(from, to);
  return { place: (v: number) => tidy(v * factor + offset), distance: (v: number) => tidy(v * factor) };
}

const nameOf = (channels: Channel[], id: string) => channels.find((c) => c.id === id)?.name ?? id;

function conditionIn(
  condition: Condition,
  units: Map<string, NewUnit>,
  what: string,
  channels: Channel[],
): Condition {
  let changed = false;
  const terms = condition.terms.map((term): Term => {
    const unit = term.channel === null ? undefined : units.get(term.channel);
    if (!unit || !(isLevel(term.test) || isBand(term.test))) return term;
    changed = true;
    const { place, distance } = conversion(unit, what, nameOf(channels, term.channel!));
    const level = isSlope(term.test) ? distance : place;
    return {
      ...term,
      level: level(term.level),
      high: level(term.high),
      hysteresis: term.hysteresis === null ? null : distance(term.hysteresis),
    };
  });
  return changed ? { ...condition, terms } : condition;
}

function ruleIn(rule: Rule, units: Map<string, NewUnit>, what: string, channels: Channel[]): Rule {
  const when = rule.cause === 'when' ? conditionIn(rule.when, units, what, channels) : rule.when;
  let changed = when !== rule.when;
  const deeds = rule.deeds.map((deed) => {
    const unit = deed.output === null ? undefined : units.get(deed.output);
    if (!unit || (deed.do !== 'set' && deed.do !== 'move')) return deed;
    changed = true;
    return { ...deed, value: conversion(unit, what, nameOf(channels, deed.output!)).place(deed.value) };
  });
  return changed ? { ...rule, when, deeds } : rule;
}

function planIn(plan: Plan, units: Map<string, NewUnit>, what: string, channels: Channel[]): Plan {
  let next = plan;
  for (const [key, used] of CONDITIONS) {
    // What is not in use now must not stand in the way of a new unit; it is converted where it can be.
    try {
      const condition = conditionIn(plan[key], units, what, channels);
      if (condition !== plan[key]) next = { ...next, [key]: condition };
    } catch (error) {
      if (used(plan)) throw error;
    }
  }
  return next;
}

function viewIn(view: View, units: Map<string, NewUnit>): View {
  const unit = units.get(view.channels[0] ?? '');
  if (!unit || (view.range === null && view.level === null)) return view;
  if (quantityOf(unit.from) !== quantityOf(unit.to)) return { ...view, range: null };
  const { place } = conversion(unit, 'The view', '');
  return {
    ...view,
    range: view.range && { min: place(view.range.min), max: place(view.range.max) },
    level: view.level === null ? null : place(view.level),
  };
}

/** Formulas go on giving what they gave when a unit of theirs changes: an input is read in its former unit by convert(), and a computed
 *  channel that is wanted in another unit converts its result. Formulas in `own` were written anew and stay as they are.
 *  @param before channels as they were @param after as they will be @returns those whose formula is another one */
export function followInFormulas(before: Channel[], after: Channel[], own: ReadonlySet<string>): Channel[] {
  const units = newUnits(before, after);
  if (units.size === 0) return [];
  const former = new Map(before.map((c) => [c.id, c]));
  const renamed = new Map(after.map((c) => [c.name, units.get(c.id)]));
  return after.flatMap((channel) => {
    if (roleOf(channel) !== 'computed' || own.has(channel.id)) return [];
    const was = String(channel.settings.formula);
    let formula = was;
    for (const [name, unit] of renamed)
      if (unit && quantityOf(unit.from) === quantityOf(unit.to)) formula = readIn(formula, name, unit);
    const result = former.has(channel.id) ? units.get(channel.id) : undefined;
    if (result && quantityOf(result.from) === quantityOf(result.to))
      formula = resultIn(formula, result, (name) => {
        const input = after.find((c) => c.name === name);
        return input ? commonOf(input).unit : '1';
      });
    return formula === was ? [] : [{ ...channel, settings: { ...channel.settings, formula } }];
  });
}

/** A formula that reads one input in the unit it had. */
function readIn(formula: string, name: string, { from, to }: NewUnit): string {
  const quoted = `"${name}"`;
  const escaped = quoted.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  // What converts it already goes on doing so; back in its former unit it need not be converted any more.
  const uses = new RegExp(`\\b(convert|number)\\(\\s*${escaped}\\s*,\\s*"([^"]*)"\\s*\\)|${escaped}`, 'g');
  return formula.replace(uses, (all, call?: string, unit?: string) => {
    if (call === undefined) return `convert(${quoted}, "${from}")`;
    return call === 'convert' && unit === to ? quoted : all;
  });
}

/** A formula whose result was in one unit and is wanted in another. */
function resultIn(formula: string, { from, to }: NewUnit, unitOf: (name: string) => string): string {
  const back = new RegExp(`^convert\\((.*), "${from.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}"\\)$`, 's').exec(
    formula,
  );
  for (const candidate of [...(back ? [back[1]] : []), formula, `convert(${formula}, "${to}")`]) {
    if (fits(candidate, unitOf, to)) return candidate;
  }
  const { factor, offset } = unitConversion(from, to);
  const shift = offset === 0 ? '' : offset > 0 ? ` + ${tidy(offset)}` : ` - ${tidy(-offset)}`;
  return `(${formula}) * ${tidy(factor)}${shift}`;
}

/** Whether a formula surely gives this unit: one that any unit would suit says nothing. */
function fits(formula: string, unitOf: (name: string) => string, unit: string): boolean {
  try {
    return compileExpression(formula).givesUnit(unitOf, unit);
  } catch {
    return false;
  }
}
