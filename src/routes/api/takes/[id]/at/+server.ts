import { uncertaintiesAt, valuesAt } from '$service/takes';
import { serve } from '../../../../serve';

export const GET = serve(
  'GET /api/takes/[id]/at',
  ({ app, params, query: { signals, s, uncertainty, as } }) =>
    s.map((atS) => (uncertainty ? uncertaintiesAt : valuesAt)(app, params.id, signals, atS, as)),
);
