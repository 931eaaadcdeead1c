import { z } from 'zod';
import { importSensors, sensorsCsv, sensorsJson } from '$service/sensors';
import { fileResponse, readJson, route } from '../../../http';

/** The drawer as a file, CSV or JSON. */
export const GET = route(({ locals, url }) =>
  url.searchParams.get('as') === 'json'
    ? fileResponse(sensorsJson(locals.app), 'sensors.json', 'application/json')
    : fileResponse(`\uFEFF${sensorsCsv(locals.app)}`, 'sensors.csv', 'text/csv; charset=utf-8'),
);
export const POST = route(async ({ locals, request }) =>
  importSensors(
    locals.app,
    (await readJson(request, z.strictObject({ text: z.string().max(10_000_000, 'At most 10 MB.') }))).text,
    locals.person.viewer.name,
  ),
);
