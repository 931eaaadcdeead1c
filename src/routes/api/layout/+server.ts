import { z } from 'zod';
import { setColumns } from '$service/overview';
import { readJson, route } from '../../http';

/** Which columns the channel table of this job shows. */
export const POST = route(async ({ locals, request }) =>
  setColumns(
    locals.app,
    (await readJson(request, z.strictObject({ columns: z.array(z.string().max(40)).min(1).max(80) })))
      .columns,
  ),
);
