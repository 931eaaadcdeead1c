import { packed } from '$contract/packed';
import { spectraOf } from '$service/inspect/read';
import { bytesResponse } from '../../http';
import { serve } from '../../serve';

export const POST = serve('POST /api/spectra', ({ app, body }) => {
  const { head, numbers } = spectraOf(app, body.asks, body.lines, body.recorded);
  return bytesResponse(packed(head, numbers));
});
