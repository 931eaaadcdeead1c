import { editRule, removeRule } from '$service/setup/plan';
import { serve } from '../../../serve';

export const PATCH = serve('PATCH /api/rules/[id]', ({ app, params, body, by }) =>
  editRule(app, params.id, body, by),
);
export const DELETE = serve('DELETE /api/rules/[id]', ({ app, params, by }) =>
  removeRule(app, params.id, by),
);
