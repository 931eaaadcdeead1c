import { packed } from '$contract/packed';
import { previewMaking } from '$service/inspect/make';
import { bytesResponse } from '../../../../../http';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/takes/[id]/made/preview', async ({ app, params, body }) => {
  const { before, after, ...head } = await previewMaking(app, params.id, body);
  const curves = [...before, ...after];
  const told = curves.map(({ min, max, ...curve }) => ({
    ...curve,
    buckets: Math.min(min.length, max.length),
  }));
  return bytesResponse(
    packed({ ...head, sources: before.length, curves: told }, curves.flatMap(({ min, max }) => [min, max])), // prettier-ignore
  );
});
