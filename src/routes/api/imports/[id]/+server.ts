import { endImport, importState, takePiece } from '$service/inspect/imports';
import { serve } from '../../../serve';

export const GET = serve('GET /api/imports/[id]', ({ app, params }) => importState(app, params.id));

export const PUT = serve('PUT /api/imports/[id]', async ({ app, params, query, event }) =>
  takePiece(app, params.id, query.at, new Uint8Array(await event.request.arrayBuffer())),
);

export const DELETE = serve('DELETE /api/imports/[id]', ({ app, params }) => endImport(app, params.id));
