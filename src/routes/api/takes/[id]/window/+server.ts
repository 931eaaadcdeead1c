import { packed } from '$contract/packed';
import { takeWindow } from '$service/takes';
import { bytesResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve(
  'GET /api/takes/[id]/window',
  ({ app, params, query: { signals, from, to, width, as } }) => {
    const parts = takeWindow(app, params.id, signals, from, to, Math.round(width), as);
    const head = parts.map((p) => ({
      signal: p.signal,
      fromS: p.fromS,
      stepS: p.stepS,
      buckets: p.min.length,
    }));
    return bytesResponse(
      packed(
        head,
        parts.flatMap((p) => [p.min, p.max]),
      ),
    );
  },
);
