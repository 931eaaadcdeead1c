import { writeNote } from '$service/inspect/keep';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/takes/[id]/notes', ({ app, params, body, by }) =>
  writeNote(app, params.id, body, by),
);
