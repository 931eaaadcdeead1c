import { exportTake } from '$service/exchange';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/export', ({ app, params, query }) => {
  const { name, mediaType, body } = exportTake(app, params.id, query);
  return fileResponse(body, name, mediaType);
});
