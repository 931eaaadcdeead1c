import { outgoingFile } from '$service/outgoing';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/outgoing/[id]/file', ({ app, params }) => {
  const { name, body } = outgoingFile(app, params.id);
  return fileResponse(body, name, 'application/octet-stream');
});
