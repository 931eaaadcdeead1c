import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/playing', ({ app, params, body }) =>
  radioOf(app).play(params.unit, body),
);
