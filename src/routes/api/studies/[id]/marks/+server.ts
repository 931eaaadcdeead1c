import { markSpans } from '$service/study/marks';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/studies/[id]/marks', ({ app, params, by }) =>
  markSpans(app, params.id, by),
);
