import { correctTakes, takesWith } from '$service/calibrate/takes';
import { serve } from '../../../serve';

export const GET = serve('GET /api/calibrate/takes', ({ app, query }) => takesWith(app, query.channel));
export const POST = serve('POST /api/calibrate/takes', ({ app, body, by }) =>
  correctTakes(app, body.channelId, body.takes, body.reason, by),
);
