import { putSensor, viewSensors } from '$service/sensors';
import { serve } from '../../serve';

export const GET = serve('GET /api/sensors', ({ app }) => viewSensors(app));
export const POST = serve('POST /api/sensors', ({ app, body, by }) =>
  putSensor(app, body.former, body.edit, by),
);
