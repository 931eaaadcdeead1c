import { emissionCsv } from '$service/radio/emission-pdf';
import { fileResponse } from '../../../../../../http';
import { serve } from '../../../../../../serve';

export const GET = serve('GET /api/radio/emissions/runs/[id]/csv', ({ app, params }) =>
  fileResponse(emissionCsv(app, params.id), 'emissions.csv', 'text/csv; charset=utf-8'),
);
