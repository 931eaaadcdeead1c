import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/measuring', ({ app, params, body }) =>
  radioOf(app).measure(params.unit, body),
);
