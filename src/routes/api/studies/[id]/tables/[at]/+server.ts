import { Readable } from 'node:stream';
import { resultTable } from '$service/study/studies';
import { fileResponse } from '../../../../../http';
import { serve } from '../../../../../serve';

export const GET = serve('GET /api/studies/[id]/tables/[at]', async ({ app, params }) => {
  const { name, open } = await resultTable(app, params.id, Number(params.at));
  return fileResponse(Readable.toWeb(open()) as ReadableStream, name, 'text/csv; charset=utf-8');
});
