import { serve } from '../../../serve';

export const PUT = serve('PUT /api/live/[id]', ({ app, params, body }) => app.live.look(params.id, body));
