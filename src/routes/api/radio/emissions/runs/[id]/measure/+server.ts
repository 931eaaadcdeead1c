import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../../serve';

export const POST = serve('POST /api/radio/emissions/runs/[id]/measure', ({ app, params, body }) =>
  radioOf(app).emissions.measure(params.id, body.unit, body.suspects),
);
