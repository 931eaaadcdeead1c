import { z } from 'zod';
import { nameText } from '../name-text';
import type { TokenView } from '../token';
import { ALL_PARTS, type Part, type Parts } from '../overview';
import { Id, endpoints, list, nothing, told } from './endpoint';

const text = z
  .string()
  .max(100)
  .optional()
  .transform((t) => t || undefined);

/** Jobs, the logbook, and who holds the controls. */
export const house = endpoints({
  'GET /api': {
    says: 'This list, as an OpenAPI 3.1 document.',
    need: 'look',
    answer: told<unknown>('The document.'),
  },
  'GET /api/openapi.json': {
    says: 'The same, by the name that tools look for.',
    need: 'look',
    answer: told<unknown>('The document.'),
  },
  'GET /api/tokens': {
    says: 'Programs that may come in: their names, never their secrets.',
    need: 'look',
    answer: told<TokenView[]>('In the order in which they were made.'),
  },
  'POST /api/tokens': {
    says: 'Makes a token for a program. Its secret is told once, here.',
    need: 'controls',
    body: z.strictObject({ name: nameText(60), may: z.enum(['read', 'everything']) }),
    answer: z.object({ id: z.string(), secret: z.string() }),
  },
  'DELETE /api/tokens/[id]': { says: 'Takes a token back.', need: 'controls', answer: nothing },
  'GET /api/overview': {
    says: 'What every page shows, part by part; parts whose version is known are left out.',
    need: 'look',
    query: z.object({
      parts: list(40).pipe(z.array(z.enum(ALL_PARTS as [Part, ...Part[]], 'There is no such part.'))),
      /** Known versions, as “part:version”. */
      known: list(40, 80),
    }),
    answer: told<Parts>('The parts that are new, with their versions.'),
  },
  'POST /api/jobs': {
    says: 'Makes a job or switches to one.',
    need: 'controls',
    body: z.union([
      z.strictObject({ name: nameText(80), place: z.string().trim().max(80) }),
      z.strictObject({ id: Id }),
    ]),
    answer: told<unknown>('The job.'),
  },
  'POST /api/controls': {
    says: 'Asks for the controls, hands them over, makes a link that can only watch, or gives this browser a name.',
    need: 'take part',
    body: z.discriminatedUnion('do', [
      z.strictObject({ do: z.literal('ask') }),
      // To one who asked, or to nobody.
      z.strictObject({ do: z.literal('hand over'), to: Id.nullable() }),
      z.strictObject({ do: z.literal('link') }),
      z.strictObject({ do: z.literal('name'), name: nameText(40) }),
    ]),
    answer: told<{ path: string } | void>('The address of a link; nothing otherwise.'),
  },
  'GET /api/logbook': {
    says: 'The logbook as a file, CSV or PDF.',
    need: 'look',
    query: z.object({
      as: z.enum(['csv', 'pdf']).default('csv'),
      kind: text,
      take: text,
      find: text,
      before: z.coerce.number().optional().catch(undefined),
    }),
    answer: { file: 'text/csv' },
  },
  'POST /api/logbook': {
    says: 'Keeps a person’s note, perhaps with a picture.',
    need: 'take part',
    sends: 'form',
    answer: nothing,
  },
});
