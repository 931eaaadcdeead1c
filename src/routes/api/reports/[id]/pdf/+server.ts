import { madeNow } from '$service/outgoing';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/reports/[id]/pdf', async ({ app, params, query, by }) => {
  const { name, body } = await madeNow(app, { what: 'report', report: params.id, as: 'pdf', ...query }, by);
  return fileResponse(body, name, 'application/pdf');
});
