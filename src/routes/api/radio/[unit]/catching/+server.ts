import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/catching', ({ app, params, body }) =>
  radioOf(app).catch(params.unit, body),
);
