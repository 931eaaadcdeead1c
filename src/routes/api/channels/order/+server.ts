import { z } from 'zod';
import { orderChannels } from '$service/setup/channels';
import { readJson, route } from '../../../http';

export const POST = route(async ({ locals, request }) =>
  orderChannels(
    locals.app,
    (await readJson(request, z.strictObject({ ids: z.array(z.string().max(60)).max(5000) }))).ids,
    locals.person.viewer.name,
  ),
);
