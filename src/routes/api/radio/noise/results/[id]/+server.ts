import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const DELETE = serve('DELETE /api/radio/noise/results/[id]', ({ app, params, by }) =>
  radioOf(app).noise.drop(params.id, by),
);
