import { fieldOf } from '$service/field/field';
import { serve } from '../../../../serve';

export const PUT = serve('PUT /api/field/templates/[name]', ({ app, params, body }) =>
  fieldOf(app).template(params.name, body.wish),
);
export const DELETE = serve('DELETE /api/field/templates/[name]', ({ app, params }) =>
  fieldOf(app).template(params.name, null),
);
