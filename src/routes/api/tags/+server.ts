import { tagTakes } from '$service/inspect/keep';
import { serve } from '../../serve';

export const POST = serve('POST /api/tags', ({ app, body, by }) =>
  tagTakes(app, body.takes, body.put, body.off, by),
);
