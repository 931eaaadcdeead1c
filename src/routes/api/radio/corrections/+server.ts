import { corrections } from '$service/radio/shelf';
import { serve } from '../../../serve';

export const GET = serve('GET /api/radio/corrections', ({ app }) => corrections(app).list());
export const PUT = serve('PUT /api/radio/corrections', ({ app, body, by }) => {
  corrections(app).put(body, by);
  return corrections(app).list();
});
