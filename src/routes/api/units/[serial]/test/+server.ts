import { selfTest } from '$service/units';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/units/[serial]/test', ({ app, params, by }) =>
  selfTest(app, params.serial, by),
);
