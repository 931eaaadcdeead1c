import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/emissions', ({ app, params, body }) =>
  radioOf(app).emissions.change(params.unit, body),
);
