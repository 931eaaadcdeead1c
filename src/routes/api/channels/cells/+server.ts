import { z } from 'zod';
import { writeCells } from '$service/setup/channels';
import { readJson, route } from '../../../http';

const Cells = z.strictObject({
  cells: z
    .array(z.strictObject({ id: z.string().max(60), key: z.string().max(40), text: z.string().max(2000) }))
    .max(20_000, 'At most 20,000 cells at once.'),
  comma: z.enum(['decimal sign', 'between thousands']).nullable(),
  apply: z.boolean(),
});

/** What a block of cells would change, or the change itself. */
export const POST = route(async ({ locals, request }) => {
  const { cells, comma, apply } = await readJson(request, Cells);
  return writeCells(locals.app, cells, comma, apply);
});
