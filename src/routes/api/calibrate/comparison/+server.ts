import { showComparison } from '$service/calibrate/comparison';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/comparison', ({ app, body }) =>
  showComparison(app, body.channelId, body.referenceId, body.seconds),
);
