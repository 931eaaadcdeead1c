import { changeSet, refreshSet, removeSet } from '$service/modal/analyses';
import { serve } from '../../../../../serve';

export const PATCH = serve('PATCH /api/modal/[id]/sets/[set]', ({ app, params, body, by }) =>
  Object.keys(body).length
    ? changeSet(app, params.id, params.set, body, by).view
    : refreshSet(app, params.id, params.set, by).view,
);
export const DELETE = serve('DELETE /api/modal/[id]/sets/[set]', ({ app, params }) =>
  removeSet(app, params.id, params.set),
);
