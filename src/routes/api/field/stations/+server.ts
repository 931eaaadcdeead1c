import { stationsOf } from '$service/field/field';
import { serve } from '../../../serve';

export const GET = serve('GET /api/field/stations', ({ app }) => stationsOf(app).list());
export const POST = serve('POST /api/field/stations', ({ app, body, by }) =>
  stationsOf(app).add(body.wish, by),
);
