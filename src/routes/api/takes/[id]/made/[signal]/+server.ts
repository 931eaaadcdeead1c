import { takeOut } from '$service/inspect/make';
import { serve } from '../../../../../serve';

export const DELETE = serve('DELETE /api/takes/[id]/made/[signal]', ({ app, params, by }) =>
  takeOut(app, params.id, Number(params.signal), by),
);
