import { frameFile } from '$service/modal/frames';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/wireframes/[id]/file', ({ app, params }) => {
  const { name, text } = frameFile(app, params.id);
  return fileResponse(text, name, 'text/plain');
});
