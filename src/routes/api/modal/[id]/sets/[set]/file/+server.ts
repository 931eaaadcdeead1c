import { modalFile } from '$service/modal/out';
import { fileResponse } from '../../../../../../http';
import { serve } from '../../../../../../serve';

export const GET = serve('GET /api/modal/[id]/sets/[set]/file', ({ app, params, query }) => {
  const { name, text } = modalFile(app, params.id, params.set, query.as);
  return fileResponse(text, name, 'text/plain');
});
