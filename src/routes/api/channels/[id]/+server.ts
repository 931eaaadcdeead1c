import { editChannel, removeChannel } from '$service/setup/channels';
import { serve } from '../../../serve';

export const PATCH = serve('PATCH /api/channels/[id]', ({ app, params, body, by }) =>
  editChannel(app, params.id, body, by),
);
export const DELETE = serve('DELETE /api/channels/[id]', ({ app, params, by }) =>
  removeChannel(app, params.id, by),
);
