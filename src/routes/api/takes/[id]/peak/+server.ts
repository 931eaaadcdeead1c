import { peakOf } from '$service/inspect/read';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/peak', ({ app, params, query }) =>
  peakOf(app, params.id, query),
);
