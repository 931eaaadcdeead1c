import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/recorders/[serial]/clear', ({ app, params, by }) =>
  fieldOf(app).clear(params.serial, by),
);
