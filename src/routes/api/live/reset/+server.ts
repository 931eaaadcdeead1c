import { z } from 'zod';
import { readJson, route } from '../../../http';

/** Extremes and means begin anew, of one channel or of all. */
export const POST = route(async ({ locals, request }) => {
  const { channelId } = await readJson(request, z.strictObject({ channelId: z.string().max(64).optional() }));
  locals.app.live.reset(channelId);
});
