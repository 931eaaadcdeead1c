import { addChannel, addChannels } from '$service/setup/channels';
import { serve } from '../../serve';

export const POST = serve('POST /api/channels', ({ app, body, by }) =>
  Array.isArray(body) ? addChannels(app, body, by) : addChannel(app, body, by),
);
