import { removeReport, viewReport, writeReport } from '$service/report/reports';
import { serve } from '../../../serve';

export const GET = serve('GET /api/reports/[id]', ({ app, params }) => viewReport(app, params.id));
export const PUT = serve('PUT /api/reports/[id]', ({ app, params, body }) =>
  writeReport(app, params.id, body.version, body.body, body.shown),
);
export const DELETE = serve('DELETE /api/reports/[id]', ({ app, params, by }) =>
  removeReport(app, params.id, by),
);
