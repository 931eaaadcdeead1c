import { acceptComparison } from '$service/calibrate/comparison';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/calibrate/comparison/accept', ({ app, body, by }) =>
  acceptComparison(app, body.id, body.budget, by),
);
