import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const GET = serve('GET /api/field/recorders/[serial]/readings', ({ app, params }) =>
  fieldOf(app).readings(params.serial),
);
