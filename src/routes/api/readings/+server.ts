import { readingsOf } from '$service/inspect/read';
import { serve } from '../../serve';

export const POST = serve('POST /api/readings', ({ app, body }) =>
  readingsOf(app, body.asks, body.uncertainty, body.recorded),
);
