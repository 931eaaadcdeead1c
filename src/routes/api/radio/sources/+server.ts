import { noiseSources } from '$service/radio/shelf';
import { serve } from '../../../serve';

export const GET = serve('GET /api/radio/sources', ({ app }) => noiseSources(app).list());
export const PUT = serve('PUT /api/radio/sources', ({ app, body, by }) => {
  noiseSources(app).put(body, by);
  return noiseSources(app).list();
});
