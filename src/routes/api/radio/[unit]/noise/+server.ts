import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/noise', ({ app, params, body }) =>
  radioOf(app).noise.change(params.unit, body),
);
