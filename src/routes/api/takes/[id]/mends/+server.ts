import { mendTake } from '$service/inspect/mend';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/takes/[id]/mends', ({ app, params, body, by }) =>
  mendTake(app, params.id, body, by),
);
