import { readDocument, removeDocument } from '$service/sensors';
import { fileResponse } from '../../../http';
import { serve } from '../../../serve';

export const GET = serve('GET /api/documents/[id]', ({ app, params }) => {
  const { name, content } = readDocument(app, Number(params.id));
  return fileResponse(new Uint8Array(content), name, 'application/octet-stream');
});
export const DELETE = serve('DELETE /api/documents/[id]', ({ app, params }) =>
  removeDocument(app, Number(params.id)),
);
