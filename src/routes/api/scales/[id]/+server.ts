import { removeScale } from '$service/setup/scales';
import { serve } from '../../../serve';

export const DELETE = serve('DELETE /api/scales/[id]', ({ app, params, by }) =>
  removeScale(app, params.id, by),
);
