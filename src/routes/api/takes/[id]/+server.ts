import { renameTake, viewTake } from '$service/takes';
import { serve } from '../../../serve';

export const GET = serve('GET /api/takes/[id]', ({ app, params }) => viewTake(app, params.id));
export const PATCH = serve('PATCH /api/takes/[id]', ({ app, params, body, by }) =>
  renameTake(app, params.id, body.name, by),
);
