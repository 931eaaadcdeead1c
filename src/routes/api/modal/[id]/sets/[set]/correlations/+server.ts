import { setFile } from '$service/modal/analyses';
import { serve } from '../../../../../../serve';

export const GET = serve(
  'GET /api/modal/[id]/sets/[set]/correlations',
  ({ app, params }) =>
    new Response(setFile(app, params.id, params.set, 'correlations') as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/cbor', 'cache-control': 'no-cache' },
    }),
);
