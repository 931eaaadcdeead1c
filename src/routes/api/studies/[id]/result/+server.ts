import { resultFile } from '$service/study/studies';
import { serve } from '../../../../serve';

export const GET = serve(
  'GET /api/studies/[id]/result',
  ({ app, params }) =>
    new Response(resultFile(app, params.id) as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/cbor', 'cache-control': 'no-cache' },
    }),
);
