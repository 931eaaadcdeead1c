import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/radio/[unit]/clear', ({ app, params, body }) =>
  radioOf(app).clear(params.unit, body.ids),
);
