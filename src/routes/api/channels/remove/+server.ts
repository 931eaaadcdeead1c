import { channelUses, removeChannels } from '$service/setup/channels';
import { serve } from '../../../serve';

export const POST = serve('POST /api/channels/remove', async ({ app, body: { ids, apply, anyway }, by }) => {
  if (!apply) return channelUses(app, ids);
  await removeChannels(app, ids, by, anyway);
  return [];
});
