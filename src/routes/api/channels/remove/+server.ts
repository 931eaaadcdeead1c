import { z } from 'zod';
import { channelUses, removeChannels } from '$service/setup/channels';
import { readJson, route } from '../../../http';

const Removal = z.strictObject({
  ids: z.array(z.string().max(60)).min(1).max(5000),
  /** false: only what would stop working. */
  apply: z.boolean().default(true),
  /** What stops working is known. */
  anyway: z.boolean().default(false),
});

export const POST = route(async ({ locals, request }) => {
  const { ids, apply, anyway } = await readJson(request, Removal);
  if (apply) await removeChannels(locals.app, ids, locals.person.viewer.name, anyway);
  return apply ? null : channelUses(locals.app, ids);
});
