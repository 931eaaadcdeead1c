import { steadinessOf } from '$service/calibrate/points';
import { serve } from '../../../serve';

export const GET = serve('GET /api/calibrate/steady', ({ app, query }) =>
  steadinessOf(app, query.channels, query.tolerance, query.hold),
);
