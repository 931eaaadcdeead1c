import { restoreReport } from '$service/report/reports';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/reports/[id]/restore', ({ app, params, by }) =>
  restoreReport(app, params.id, by),
);
