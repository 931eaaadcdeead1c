import { z } from 'zod';
import { addChannel } from '$service/setup';
import { readJson, route } from '../../http';

const NewChannel = z.strictObject({
  name: z.string().max(200),
  kind: z.string().max(40),
  group: z.string().max(60).optional(),
  sensorSerial: z.string().max(60).optional(),
  wire: z.strictObject({ unit: z.string().max(60), terminal: z.string().max(20) }).nullable(),
  settings: z.record(z.string(), z.unknown()).optional(),
});

export const POST = route(async ({ locals, request }) =>
  addChannel(locals.app, await readJson(request, NewChannel)),
);
