import { acceptTone } from '$service/calibrate/tone';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/calibrate/tone/accept', ({ app, body, by }) =>
  acceptTone(app, body.channelId, body.budget, by),
);
