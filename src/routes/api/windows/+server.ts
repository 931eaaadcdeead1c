import { packed } from '$contract/packed';
import { windowsOf } from '$service/inspect/read';
import { bytesResponse } from '../../http';
import { serve } from '../../serve';

export const POST = serve('POST /api/windows', ({ app, body }) => {
  const { head, numbers } = windowsOf(app, body.asks, body.width, body.recorded);
  return bytesResponse(packed(head, numbers));
});
