import { addRuns } from '$service/modal/analyses';
import { serve } from '../../../../serve';

export const POST = serve(
  'POST /api/modal/[id]/runs',
  ({ app, params, body, by }) => addRuns(app, params.id, body.like, body.takes, by).view,
);
