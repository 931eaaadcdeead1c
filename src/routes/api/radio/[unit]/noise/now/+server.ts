import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/noise/now', ({ app, params, body }) =>
  radioOf(app).noise.changeForNow(params.unit, body.points),
);
