import { z } from 'zod';
import { correctTakes, takesWith } from '$service/calibrate/takes';
import { readJson, route } from '../../../http';

/** Takes that a channel is in, and how each reads it. */
export const GET = route(({ locals, url }) => takesWith(locals.app, url.searchParams.get('channel') ?? ''));

/** Gives takes the meaning that the channel has now. */
export const POST = route(async ({ locals, request }) => {
  const { channelId, takes, reason } = await readJson(
    request,
    z.strictObject({
      channelId: z.string().max(64),
      takes: z.array(z.string().max(64)).max(2000),
      reason: z.string().max(500),
    }),
  );
  return correctTakes(locals.app, channelId, takes, reason, locals.person.viewer.name);
});
