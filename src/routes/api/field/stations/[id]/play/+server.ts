import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/play', ({ app, params, body }) =>
  stationsOf(app).play(params.id, body),
);
