import { radioOf } from '$service/radio/radio';
import { bytesResponse } from '../../../../../http';
import { serve } from '../../../../../serve';

export const GET = serve('GET /api/radio/emissions/runs/[id]', ({ app, params }) =>
  bytesResponse(radioOf(app).emissions.lines(params.id)),
);
export const DELETE = serve('DELETE /api/radio/emissions/runs/[id]', ({ app, params, by }) =>
  radioOf(app).emissions.drop(params.id, by),
);
