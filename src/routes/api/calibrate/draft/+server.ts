import { z } from 'zod';
import { keepDraft } from '$service/calibrate/points';
import { readJson, route } from '../../../http';

/** Keeps what was measured so far, so that a closed page loses nothing. */
export const POST = route(async ({ locals, request }) => {
  const { channelId, draft } = await readJson(
    request,
    z.strictObject({ channelId: z.string().max(64), draft: z.record(z.string(), z.unknown()).nullable() }),
  );
  keepDraft(locals.app, channelId, draft);
});
