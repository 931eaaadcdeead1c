import { packed } from '$contract/packed';
import { previewOf } from '$service/inspect/mend';
import { bytesResponse } from '../../../../../http';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/takes/[id]/mends/preview', async ({ app, params, body }) => {
  const { before, after, ...head } = await previewOf(app, params.id, body);
  return bytesResponse(
    packed({ ...head, buckets: before.min.length }, [before.min, before.max, after.min, after.max]),
  );
});
