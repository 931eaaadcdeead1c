import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/radio/[unit]/emissions/look', ({ app, params, body, by }) =>
  radioOf(app).emissions.look(params.unit, body.ambient, by),
);
