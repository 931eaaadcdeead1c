import { overviewParts } from '$service/overview';
import { serve } from '../../serve';

export const GET = serve('GET /api/overview', ({ app, query: { parts, known } }) =>
  overviewParts(app, parts, Object.fromEntries(known.map((k) => k.split(':')))),
);
