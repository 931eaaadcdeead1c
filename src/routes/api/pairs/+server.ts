import { packed } from '$contract/packed';
import { pairsOf } from '$service/inspect/read';
import { bytesResponse } from '../../http';
import { serve } from '../../serve';

export const POST = serve('POST /api/pairs', ({ app, body }) => {
  const { head, numbers } = pairsOf(app, body.asks, body.points, body.recorded);
  return bytesResponse(packed(head, numbers));
});
