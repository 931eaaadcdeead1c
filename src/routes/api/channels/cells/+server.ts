import { z } from 'zod';
import { writeCells } from '$service/setup/cells';
import { readJson, route } from '../../../http';

const Cells = z.strictObject({
  cells: z
    .array(z.strictObject({ id: z.string().max(60), key: z.string().max(40), text: z.string().max(2000) }))
    .max(20_000, 'At most 20,000 cells at once.'),
  rows: z
    .array(
      z.strictObject({
        like: z.string().max(60),
        cells: z.array(z.strictObject({ key: z.string().max(40), text: z.string().max(2000) })).max(80),
      }),
    )
    .max(2000, 'At most 2,000 new channels at once.')
    .default([]),
  comma: z.enum(['decimal sign', 'between thousands']).nullable(),
  apply: z.boolean(),
});

/** What a block of cells would change, or the change itself. */
export const POST = route(async ({ locals, request }) => {
  const { cells, comma, apply, rows } = await readJson(request, Cells);
  return writeCells(locals.app, cells, comma, apply, locals.person.viewer.name, rows);
});
