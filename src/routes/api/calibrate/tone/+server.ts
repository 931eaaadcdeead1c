import { readTone } from '$service/calibrate/tone';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/tone', ({ app, body }) =>
  readTone(app, body.channelId, body.level, body.hz),
);
