import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/send', ({ app, params, body, by }) =>
  stationsOf(app).send(params.id, body.text, body.withoutFetching, by),
);
