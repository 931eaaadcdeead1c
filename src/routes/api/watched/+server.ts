import { changeWatched, watchedSettings } from '$service/inbox';
import { serve } from '../../serve';

export const GET = serve('GET /api/watched', ({ app }) => watchedSettings(app));
export const PUT = serve('PUT /api/watched', ({ app, body, by }) => changeWatched(app, body, by));
