import { compareSheet, takeSheet } from '$service/sensors';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/channels/[id]/sheet', ({ app, params, query }) =>
  compareSheet(app, params.id, query.serial),
);
export const POST = serve('POST /api/channels/[id]/sheet', ({ app, params, body, by }) =>
  takeSheet(app, params.id, body.serial, by),
);
