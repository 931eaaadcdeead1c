import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/radio/[unit]/emissions/stop', ({ app, params }) =>
  radioOf(app).emissions.stop(params.unit),
);
