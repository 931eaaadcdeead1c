import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/modulation', ({ app, params, body }) =>
  radioOf(app).modulation(params.unit, body),
);
