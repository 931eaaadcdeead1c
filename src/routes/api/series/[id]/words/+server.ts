import { judgeRow } from '$service/inspect/series';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/series/[id]/words', ({ app, params, body, by }) =>
  judgeRow(app, params.id, body, by),
);
