import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../../../serve';

export const PUT = serve('PUT /api/radio/emissions/runs/[id]/suspects/[suspect]', ({ app, params, body }) =>
  radioOf(app).emissions.note(params.id, Number(params.suspect), body),
);
