import { changeStudy, removeStudy, soon, viewStudy } from '$service/study/studies';
import { serve } from '../../../serve';

export const GET = serve('GET /api/studies/[id]', ({ app, params }) => viewStudy(app, params.id));
export const PATCH = serve('PATCH /api/studies/[id]', ({ app, params, body, by }) =>
  soon(app, changeStudy(app, params.id, body.settings, by, body.takes, body.filter)),
);
export const DELETE = serve('DELETE /api/studies/[id]', ({ app, params, by }) =>
  removeStudy(app, params.id, by),
);
