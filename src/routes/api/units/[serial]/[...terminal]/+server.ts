import { probe, tryOut } from '$service/units';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/[...terminal]', ({ app, params }) =>
  probe(app, params.serial, params.terminal),
);
export const POST = serve('POST /api/units/[serial]/[...terminal]', ({ app, params, body, by }) =>
  tryOut(app, params.serial, params.terminal, body, by),
);
