import { goBackTo, history } from '$service/setup/change';
import { serve } from '../../serve';

export const GET = serve('GET /api/history', ({ app, query }) => history(app, query.take));
export const POST = serve('POST /api/history', async ({ app, body, by }) => ({
  says: await goBackTo(app, body.to, by),
}));
