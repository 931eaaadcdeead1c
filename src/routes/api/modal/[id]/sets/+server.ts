import { addSet } from '$service/modal/analyses';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/modal/[id]/sets', ({ app, params, body: { like, ...change }, by }) => {
  const { view, set } = addSet(app, params.id, like, change, by);
  return { view, set };
});
