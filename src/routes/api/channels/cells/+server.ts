import { writeCells } from '$service/setup/cells';
import { serve } from '../../../serve';

export const POST = serve('POST /api/channels/cells', ({ app, body, by }) =>
  writeCells(app, body.cells, body.comma, body.apply, by, body.rows),
);
