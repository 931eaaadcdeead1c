import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/recorders/[serial]/fetch', ({ app, params, body }) =>
  fieldOf(app).fetchNow(params.serial, body.password),
);
