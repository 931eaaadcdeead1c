import { forgetDrawing } from '$service/inspect/drawings';
import { serve } from '../../../serve';

export const DELETE = serve('DELETE /api/drawings/[id]', ({ app, params, by }) =>
  forgetDrawing(app, params.id, by),
);
