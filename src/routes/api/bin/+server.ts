import { binTakes, emptyBin, restoreTakes } from '$service/inspect/keep';
import { binned } from '$service/inspect/list';
import { serve } from '../../serve';

export const GET = serve('GET /api/bin', ({ app }) => binned(app));

export const POST = serve('POST /api/bin', ({ app, body, by }) =>
  (body.out ? restoreTakes : binTakes)(app, body.takes, by),
);

export const DELETE = serve('DELETE /api/bin', ({ app, by }) => emptyBin(app, by));
