import { balance, checkBridges } from '$service/calibrate/bridges';
import { serve } from '../../../serve';

export const POST = serve('POST /api/calibrate/bridges', ({ app, body, by }) =>
  (body.do === 'check' ? checkBridges : balance)(app, body.channels, body.run, by),
);
