import { z } from 'zod';

/** What a request needs besides being let in: nothing more than to look on (“look”), to be no mere watcher (“take part”), or the controls. */
export type Need = 'look' | 'take part' | 'controls';

/** What an endpoint answers with: JSON of a schema, a file to be saved, or bytes that the pages read themselves. */
export type Answer = z.ZodType | { file: string } | { bytes: string };

/** One address of the server, with one method. */
export interface Endpoint {
  /** What it does, in a sentence. */
  says: string;
  need: Need;
  /** Values after the question mark. */
  query?: z.ZodObject;
  /** JSON that is sent along. */
  body?: z.ZodType;
  /** Something else that is sent along: a file as it is, its name in the header x-file-name; or a form. */
  sends?: 'file' | 'form';
  answer: Answer;
  /** Only reads, or what it changes is nobody else's: its question is sent as a body because it may be too long for an address. */
  asks?: true;
}

/** Endpoints by “METHOD /path”, as their routes are written; keeps what each says of itself. */
export const endpoints = <const E extends Record<string, Endpoint>>(all: E): E => all;

/** An answer that the type describes; what it holds was checked when it was made. */
export const told = <T>(description: string) => z.custom<T>().meta({ description });
/** An answer without anything in it. */
export const nothing = z.null().or(z.undefined()).or(z.void()).meta({ description: 'Nothing.' });

export const Id = z.string().max(64);
export const Made = z.object({ id: z.string() });
export const Says = z.object({ says: z.string() });
/** Settings whose values are checked by the kind they belong to. */
export const Settings = z.record(z.string().max(40), z.unknown());

/** A list in one value, such as “a,b”; nothing is an empty list. */
export const list = (most: number, longest = 64) =>
  z
    .string()
    .default('')
    .transform((text) => text.split(',').filter(Boolean))
    .pipe(z.array(z.string().max(longest)).max(most));
/** Whole numbers in one value, such as “3,5”. */
export const numbers = list(5000, 12).pipe(
  z.array(z.coerce.number<string>({ error: 'Give whole numbers, separated by commas.' }).int().min(0)),
);
/** A number in one value. */
export const number = z.coerce
  .number<string>({ error: 'Give a number.' })
  .refine(Number.isFinite, 'Give a number.');
/** Something that is asked for by its mere name. */
export const flag = z
  .string()
  .optional()
  .transform((text) => text !== undefined);
/** A JSON object in one value. */
export const jsonObject = z
  .string()
  .max(10_000)
  .default('{}')
  .transform((text, context): Record<string, unknown> => {
    try {
      const value = JSON.parse(text) as unknown;
      if (value && typeof value === 'object' && !Array.isArray(value))
        return value as Record<string, unknown>;
    } catch {
      // said below
    }
    context.addIssue({ code: 'custom', message: 'Give them as a JSON object.', input: text });
    return z.NEVER;
  });
/** Which meaning a take is read in. */
export const Meaning = z
  .literal('recorded')
  .optional()
  .transform((as) => (as ? ('as recorded' as const) : ('as corrected' as const)));
