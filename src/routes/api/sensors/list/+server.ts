import { importSensors, sensorsCsv, sensorsJson } from '$service/sensor-files';
import { fileResponse } from '../../../http';
import { serve } from '../../../serve';

export const GET = serve('GET /api/sensors/list', ({ app, query }) =>
  query.as === 'json'
    ? fileResponse(sensorsJson(app), 'sensors.json', 'application/json')
    : fileResponse(`\uFEFF${sensorsCsv(app)}`, 'sensors.csv', 'text/csv; charset=utf-8'),
);
export const POST = serve('POST /api/sensors/list', ({ app, body, by }) => importSensors(app, body.text, by));
