import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const PUT = serve('PUT /api/radio/[unit]/noise/device', ({ app, params, body }) =>
  radioOf(app).noise.changeDevice(params.unit, body.device),
);
