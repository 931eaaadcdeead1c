import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/set', ({ app, params, body, by }) =>
  stationsOf(app).set(params.id, body, by),
);
