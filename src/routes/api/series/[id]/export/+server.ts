import { seriesCsv } from '$service/inspect/series';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/series/[id]/export', async ({ app, params }) => {
  const { name, text } = await seriesCsv(app, params.id);
  return fileResponse(text, `${name}.csv`, 'text/csv; charset=utf-8');
});
