import { removeToken } from '$service/tokens';
import { serve } from '../../../serve';

export const DELETE = serve('DELETE /api/tokens/[id]', ({ app, params, by }) =>
  removeToken(app, params.id, by),
);
