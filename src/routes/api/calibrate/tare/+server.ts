import { tare } from '$service/calibrate/tare';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/tare', ({ app, body, by }) =>
  tare(app, body.channels, body.on, by),
);
