import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const PUT = serve('PUT /api/field/stations/[id]/draft', ({ app, params, body }) =>
  stationsOf(app).draft(params.id, body.text),
);
