import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/lines', ({ app, params, body }) =>
  radioOf(app).lines(params.unit, body.lines),
);
