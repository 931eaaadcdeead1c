import { corrections } from '$service/radio/shelf';
import { serve } from '../../../../serve';

export const DELETE = serve('DELETE /api/radio/corrections/[name]', ({ app, params, by }) => {
  corrections(app).drop(params.name, by);
  return corrections(app).list();
});
