import { scanChips, takeChips } from '$service/sensors';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/chips', ({ app, params }) => scanChips(app, params.serial));
export const POST = serve('POST /api/units/[serial]/chips', ({ app, params, body, by }) =>
  takeChips(app, params.serial, body.terminals, by),
);
