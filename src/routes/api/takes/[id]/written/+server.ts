import { Readable } from 'node:stream';
import { writtenFile } from '$service/at-end';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/written', ({ app, params }) => {
  const { name, open } = writtenFile(app, params.id);
  return fileResponse(Readable.toWeb(open()) as ReadableStream, name, 'text/csv; charset=utf-8');
});
