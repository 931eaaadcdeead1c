import { badInput } from '../errors';
import { sentenceFields } from '../sentence/sentence';
import { definition, isUnit } from '../quantities/quantities';
import { sameDimension } from '../quantities/symbols';
import type { SampledHead } from '../samples/sampled';
import type { Role, StudyKind } from './study';

export type Offered = Pick<SampledHead, 'id' | 'name' | 'unit'> &
  Partial<Pick<SampledHead, 'width' | 'rate'>>;

/** Whether a signal can stand in a role. */
export const suits = ({ unit, width = 1 }: Role, signal: Offered): boolean =>
  (signal.width ?? 1) === width &&
  (unit === undefined ||
    (isUnit(signal.unit) && sameDimension(definition(signal.unit).dimension, definition(unit).dimension)));

/** What a role is called: the label of its field. */
const roleLabel = (kind: Pick<StudyKind, 'sentence'>, { key }: Role): string =>
  sentenceFields(kind.sentence.schema).find((f) => f.key === key)?.info.label ?? key;

/** So many of several channels are chosen by themselves where all would be too many. */
const FEW = 1;

/** Settings that a new study begins with: each role takes what is looked at and suits, else the first of all that does.
 *  @param shown ids of what is looked at */
export function usualInputs(
  kind: Pick<StudyKind, 'roles'>,
  signals: readonly Offered[],
  shown: readonly string[],
): Record<string, string | string[] | null> {
  const first = [...signals].sort((a, b) => Number(shown.includes(b.id)) - Number(shown.includes(a.id)));
  const used = new Set<string>();
  const settings: Record<string, string | string[] | null> = {};
  // A role that takes one leaves the others to those that take several.
  for (const role of [...kind.roles].sort(
    (a, b) => Number(a.takes === 'several') - Number(b.takes === 'several'),
  )) {
    if (role.byHand) {
      settings[role.key] = null;
      continue;
    }
    const fitting = first.filter((s) => suits(role, s) && !used.has(s.id));
    if (role.takes === 'one') {
      const chosen = fitting.find((s) => role.unit !== undefined || shown.includes(s.id)) ?? fitting[0];
      settings[role.key] = role.optional && !chosen ? null : (chosen?.id ?? '');
      if (chosen) used.add(chosen.id);
    } else {
      const other = role.like && signals.find((s) => s.id === settings[role.like!]);
      const alike = (s: Offered) =>
        !other || !other.rate || !s.rate || other.rate.num * s.rate.den === s.rate.num * other.rate.den;
      const looked = fitting.filter((s) => shown.includes(s.id) && alike(s));
      // Nothing is looked at, and all would be too many: the first few.
      const few = looked.length === 0 && role.most !== undefined && fitting.length > role.most;
      settings[role.key] = (few ? fitting.filter(alike).slice(0, FEW) : looked.slice(0, role.most)).map(
        (s) => s.id,
      );
    }
  }
  return settings;
}

/** Signals of a take in their roles, as the settings name them, in the order of the take. None named for a role of several means all that suit.
 *  @throws `bad_input` where one is missing, does not suit, or there are too many */
export function signalsByRole<T extends Offered>(
  kind: Pick<StudyKind, 'roles' | 'sentence'>,
  settings: Record<string, unknown>,
  signals: readonly T[],
  take: string,
): Record<string, T[]> {
  return Object.fromEntries(
    kind.roles.map((role) => {
      const label = roleLabel(kind, role);
      const held = settings[role.key];
      const ids =
        typeof held === 'string' && held !== '' ? [held] : Array.isArray(held) ? (held as string[]) : [];
      const wanted = new Set(ids);
      const named = signals.filter((s) => wanted.has(s.id));
      if (role.takes === 'one') {
        if (named.length === 0 && !role.optional)
          throw badInput(
            label,
            ids.length ? 'a channel that is not in this take' : 'none',
            `Choose a channel of ${take}.`,
          );
      } else if (ids.length > 0 && named.length === 0)
        throw badInput(label, ids.length, `None of them is in ${take}: choose others.`);
      const odd = named.find((s) => !suits(role, s));
      if (odd)
        throw badInput(
          label,
          `${odd.name} in ${odd.unit}`,
          role.unit && !(odd.width === 2)
            ? `Choose what is measured in ${role.unit} or a unit of its kind.`
            : `Choose ${role.width === 2 ? 'complex' : 'real'} samples.`,
        );
      const chosen =
        role.takes === 'several' && ids.length === 0 ? signals.filter((s) => suits(role, s)) : named;
      if (role.takes === 'several' && chosen.length === 0)
        throw badInput(
          label,
          'none',
          `Nothing in ${take} suits${role.unit ? `: it has to be measured in ${role.unit} or a unit of its kind` : ''}.`,
        );
      if (role.most !== undefined && chosen.length > role.most)
        throw badInput(label, `${chosen.length} channels`, `Choose up to ${role.most}.`);
      return [role.key, chosen];
    }),
  );
}
