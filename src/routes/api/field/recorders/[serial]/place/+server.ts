import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const PUT = serve('PUT /api/field/recorders/[serial]/place', ({ app, params, body, by }) =>
  fieldOf(app).place(params.serial, body, by),
);
