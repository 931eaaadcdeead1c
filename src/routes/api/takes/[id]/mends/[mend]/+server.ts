import { undoMend } from '$service/inspect/mend';
import { serve } from '../../../../../serve';

export const DELETE = serve('DELETE /api/takes/[id]/mends/[mend]', ({ app, params, by }) =>
  undoMend(app, params.id, params.mend, by),
);
