import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/clock', ({ app, params, by }) =>
  stationsOf(app).setClock(params.id, by),
);
