import { fieldOf } from '$service/field/field';
import { serve } from '../../../../../serve';

export const POST = serve('POST /api/field/recorders/[serial]/setup', ({ app, params, body, by }) => {
  const { wish, ...more } = body;
  return fieldOf(app).setUp(params.serial, wish, more, by);
});
