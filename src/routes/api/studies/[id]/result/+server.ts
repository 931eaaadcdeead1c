import { resultFile } from '$service/study/studies';
import { route } from '../../../../http';

/** Figures and tables of a study with their arrays, as CBOR. */
export const GET = route(
  ({ locals, params }) =>
    new Response(resultFile(locals.app, params.id!) as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/cbor', 'cache-control': 'no-cache' },
    }),
);
