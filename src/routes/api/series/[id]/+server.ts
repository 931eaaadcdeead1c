import { changeSeries, removeSeries } from '$service/inspect/series';
import { serve } from '../../../serve';

export const PATCH = serve('PATCH /api/series/[id]', ({ app, params, body, by }) =>
  changeSeries(app, params.id, body, by),
);

export const DELETE = serve('DELETE /api/series/[id]', ({ app, params, by }) =>
  removeSeries(app, params.id, by),
);
