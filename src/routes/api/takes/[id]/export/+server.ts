import { exportTake } from '$service/exchange';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/export', async ({ app, params, query }) => {
  const { name, mediaType, body } = await exportTake(app, params.id, query);
  return fileResponse(body, name, mediaType);
});
