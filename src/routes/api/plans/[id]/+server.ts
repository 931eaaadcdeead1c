import { choosePlan, editPlan, removePlan } from '$service/setup/plan';
import { serve } from '../../../serve';

export const PATCH = serve('PATCH /api/plans/[id]', ({ app, params, body, by }) =>
  editPlan(app, body, by, params.id),
);
export const POST = serve('POST /api/plans/[id]', ({ app, params, by }) => choosePlan(app, params.id, by));
export const DELETE = serve('DELETE /api/plans/[id]', ({ app, params, by }) =>
  removePlan(app, params.id, by),
);
