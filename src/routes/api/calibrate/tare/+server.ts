import { z } from 'zod';
import { tare } from '$service/calibrate/tare';
import { readJson, route } from '../../../http';

export const POST = route(async ({ locals, request }) => {
  const { channels, on } = await readJson(
    request,
    z.strictObject({ channels: z.array(z.string().max(64)).max(500), on: z.boolean() }),
  );
  return tare(locals.app, channels, on, locals.person.viewer.name);
});
