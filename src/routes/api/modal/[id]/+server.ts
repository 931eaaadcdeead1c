import { changeAnalysis, removeAnalysis, viewAnalysis } from '$service/modal/analyses';
import { serve } from '../../../serve';

export const GET = serve('GET /api/modal/[id]', ({ app, params }) => viewAnalysis(app, params.id));
export const PATCH = serve('PATCH /api/modal/[id]', ({ app, params, body }) =>
  changeAnalysis(app, params.id, body),
);
export const DELETE = serve('DELETE /api/modal/[id]', ({ app, params, by }) =>
  removeAnalysis(app, params.id, by),
);
