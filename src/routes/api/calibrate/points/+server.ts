import { acceptPoints } from '$service/calibrate/points';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/points', ({ app, body, by }) =>
  acceptPoints(app, body.runs, by),
);
