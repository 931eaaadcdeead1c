import { stationsOf } from '$service/field/field';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/field/stations/[id]', ({ app, params }) =>
  stationsOf(app).view(params.id),
);
export const PUT = serve('PUT /api/field/stations/[id]', ({ app, params, body, by }) =>
  stationsOf(app).change(params.id, body.wish, by),
);
export const DELETE = serve('DELETE /api/field/stations/[id]', ({ app, params, by }) =>
  stationsOf(app).remove(params.id, by),
);
