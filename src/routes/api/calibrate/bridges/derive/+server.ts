import { derive } from '$service/calibrate/bridges';
import { lastShuntCheck } from '$service/calibrate/overview';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/calibrate/bridges/derive', ({ app, body: { channelId }, by }) =>
  derive(app, channelId, lastShuntCheck(app, channelId), by),
);
