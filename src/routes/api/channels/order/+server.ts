import { orderChannels } from '$service/setup/channels';
import { serve } from '../../../serve';

export const POST = serve('POST /api/channels/order', ({ app, body, by }) =>
  orderChannels(app, body.ids, by),
);
