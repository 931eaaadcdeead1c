import { limitSets } from '$service/radio/shelf';
import { serve } from '../../../serve';

export const GET = serve('GET /api/radio/limits', ({ app }) => limitSets(app).list());
export const PUT = serve('PUT /api/radio/limits', ({ app, body, by }) => {
  limitSets(app).put(body, by);
  return limitSets(app).list();
});
