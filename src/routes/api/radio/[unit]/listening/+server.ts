import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/listening', ({ app, params, body }) =>
  radioOf(app).listen(params.unit, body),
);
