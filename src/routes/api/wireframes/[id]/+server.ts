import { frameOf, putFrame, removeFrame } from '$service/modal/frames';
import { serve } from '../../../serve';

export const GET = serve('GET /api/wireframes/[id]', ({ app, params, query }) =>
  frameOf(app, params.id, query.take ?? null),
);
export const PUT = serve('PUT /api/wireframes/[id]', ({ app, params, body, by }) =>
  putFrame(app, params.id, body.frame, body.says, by),
);
export const DELETE = serve('DELETE /api/wireframes/[id]', ({ app, params, by }) =>
  removeFrame(app, params.id, by),
);
