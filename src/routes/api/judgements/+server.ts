import { judgeTakes } from '$service/inspect/keep';
import { serve } from '../../serve';

export const POST = serve('POST /api/judgements', ({ app, body, by }) =>
  judgeTakes(app, body.takes, body.verdict, body.reason, by),
);
