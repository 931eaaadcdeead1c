import { limitSets } from '$service/radio/shelf';
import { serve } from '../../../../serve';

export const DELETE = serve('DELETE /api/radio/limits/[name]', ({ app, params, by }) => {
  limitSets(app).drop(params.name, by);
  return limitSets(app).list();
});
