import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/radio/[unit]/noise/stop', ({ app, params }) =>
  radioOf(app).noise.stop(params.unit),
);
