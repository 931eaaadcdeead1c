import { z } from 'zod';
import { badInput } from '../errors';
import { NO_NAMES, sentenceText, type Names } from '../sentence/sentence';
import { filter } from './filter';
import { formula } from './formula';
import { integrate } from './integrate';
import type { MakingKind } from './making';
import { resample } from './resample';
import { rosette } from './rosette';
import { smooth } from './smooth';

/** All ways to make signals from signals, in the order they are offered. */
export const MAKING_KINDS = [
  filter,
  smooth,
  integrate,
  resample,
  formula,
  rosette,
] as unknown as readonly MakingKind[];

/** @throws `bad_input` for a kind that there is not */
export function makingKind(kind: string): MakingKind {
  const found = MAKING_KINDS.find((k) => k.kind === kind);
  if (!found) throw badInput('making', kind, 'Choose one of the list.');
  return found;
}

/** What a signal is made by, as it is kept. */
export const Making = z.strictObject({
  kind: z.string().max(40),
  settings: z.record(z.string().max(40), z.unknown()),
});
export type Making = z.infer<typeof Making>;

/** How a signal is made, in words. */
export function makingText({ kind, settings }: Making, names: Names = NO_NAMES): string {
  const found = MAKING_KINDS.find((k) => k.kind === kind);
  return found
    ? sentenceText(found.sentence, settings, names)
    : 'Made in a way that this version does not know.';
}
