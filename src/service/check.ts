import type { z } from 'zod';
import { badInput } from '$core/errors';
import { placeName } from '$core/sentence/sentence';

/** A value by its schema. @throws `bad_input` with the field, the value and the rule it breaks */
export function check<S extends z.ZodType>(schema: S, value: unknown): z.infer<S> {
  const parsed = schema.safeParse(value, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(placeName(schema, issue.path) || 'input', issue.input, issue.message);
}

/** @param thing what is put into order, as a word @throws `bad_input` when one of them is missing or named twice */
export function checkOrder(thing: string, ids: string[], now: { id: string }[]): void {
  if (
    ids.length !== now.length ||
    new Set(ids).size !== ids.length ||
    !now.every(({ id }) => ids.includes(id))
  )
    throw badInput(
      'order',
      `${ids.length} ${thing}s`,
      `Name each ${thing} once; open the page again if others changed it.`,
    );
}
