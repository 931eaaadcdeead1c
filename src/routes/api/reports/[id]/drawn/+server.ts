import { paintReport } from '$service/report/pages';
import { viewReport } from '$service/report/reports';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/reports/[id]/drawn', ({ app, params, body }) =>
  paintReport(app, body.body, body.take, viewReport(app, params.id).now, body.only ?? null),
);
