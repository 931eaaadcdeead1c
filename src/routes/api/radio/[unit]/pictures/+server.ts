import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/pictures', ({ app, params, body }) =>
  radioOf(app).arrange(params.unit, body.page, body.pictures),
);
