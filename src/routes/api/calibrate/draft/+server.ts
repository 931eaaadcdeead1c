import { keepDraft } from '$service/calibrate/points';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/draft', ({ app, body }) =>
  keepDraft(app, body.channelId, body.draft),
);
