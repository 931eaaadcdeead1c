import { printReport } from '$service/report/pages';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/reports/[id]/pdf', async ({ app, params, query, by }) => {
  const { name, pdf } = await printReport(app, params.id, query.takes, by);
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
