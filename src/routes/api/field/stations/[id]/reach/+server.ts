import { stationsOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/stations/[id]/reach', ({ app, params }) =>
  stationsOf(app).reach(params.id),
);
