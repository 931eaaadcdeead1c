import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/fetch', ({ app, params, body, by }) =>
  stationsOf(app).fetch(params.id, body.tables, by),
);
export const DELETE = serve('DELETE /api/field/stations/[id]/fetch', ({ app, params }) =>
  stationsOf(app).stop(params.id),
);
