import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/recorders/[serial]/sleep', ({ app, params, body, by }) =>
  fieldOf(app).sleep(params.serial, body.password, by),
);
