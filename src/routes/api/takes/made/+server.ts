import { makeInTakes } from '$service/inspect/make';
import { serve } from '../../../serve';

export const POST = serve('POST /api/takes/made', ({ app, body, by, event }) =>
  makeInTakes(app, body, by, event.request.signal),
);
