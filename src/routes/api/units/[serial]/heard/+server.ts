import { heard, send } from '$service/units';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/heard', ({ app, params }) => heard(app, params.serial));
export const POST = serve('POST /api/units/[serial]/heard', ({ app, params, body, by }) =>
  send(app, params.serial, body.text, by),
);
