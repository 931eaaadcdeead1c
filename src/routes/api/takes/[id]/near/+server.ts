import { nearestOf } from '$service/inspect/read';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/near', ({ app, params, query }) =>
  nearestOf(app, params.id, query),
);
