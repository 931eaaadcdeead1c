import { resetUnit } from '$service/units';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/units/[serial]/reset', ({ app, params, by }) =>
  resetUnit(app, params.serial, by),
);
