import { bootstrap } from '$service/modal/analyses';
import { serve } from '../../../../../../serve';

export const POST = serve(
  'POST /api/modal/[id]/sets/[set]/spread',
  ({ app, params, body }) => bootstrap(app, params.id, params.set, body.times).view,
);
