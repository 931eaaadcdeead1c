import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/radio/[unit]/noise/measure', ({ app, params, body, by }) =>
  radioOf(app).noise.measure(params.unit, body.states, by),
);
