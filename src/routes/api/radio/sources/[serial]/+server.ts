import { noiseSources } from '$service/radio/shelf';
import { serve } from '../../../../serve';

export const DELETE = serve('DELETE /api/radio/sources/[serial]', ({ app, params, by }) => {
  noiseSources(app).drop(params.serial, by);
  return noiseSources(app).list();
});
