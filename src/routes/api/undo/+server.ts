import { redo, undo } from '$service/setup/change';
import { serve } from '../../serve';

export const POST = serve('POST /api/undo', async ({ app, query, by }) => ({
  says: await (query.again ? redo : undo)(app, by),
}));
