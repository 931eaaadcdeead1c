import { rehearseTake } from '$service/rehearse';
import { serve } from '../../serve';

export const POST = serve('POST /api/rehearse', ({ app, body }) =>
  rehearseTake(app, body.takeId, body.planId),
);
