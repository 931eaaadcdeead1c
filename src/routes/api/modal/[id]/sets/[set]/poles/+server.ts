import { setFile } from '$service/modal/analyses';
import { serve } from '../../../../../../serve';

export const GET = serve(
  'GET /api/modal/[id]/sets/[set]/poles',
  ({ app, params }) =>
    new Response(setFile(app, params.id, params.set, 'poles') as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/cbor', 'cache-control': 'no-cache' },
    }),
);
