import { uncertaintiesNow } from '$service/calibrate/overview';
import { serve } from '../../../serve';

export const GET = serve('GET /api/calibrate/uncertainty', ({ app, query }) =>
  uncertaintiesNow(app, query.channels),
);
