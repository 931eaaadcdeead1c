import { z } from 'zod';
import { removeChannels } from '$service/setup/channels';
import { readJson, route } from '../../../http';

export const POST = route(async ({ locals, request }) =>
  removeChannels(
    locals.app,
    (await readJson(request, z.strictObject({ ids: z.array(z.string().max(60)).min(1).max(5000) }))).ids,
  ),
);
