import { takeViews } from '$service/inspect/read';
import { serve } from '../../../serve';

export const POST = serve('POST /api/takes/views', ({ app, body }) =>
  takeViews(app, body.takes, body.recorded),
);
