import { z } from 'zod';
import { editChannel, removeChannel } from '$service/setup/channels';
import { readJson, route } from '../../../http';

const Edit = z.strictObject({
  name: z.string().max(200).optional(),
  group: z.string().max(60).optional(),
  sensorSerial: z.string().max(60).optional(),
  colour: z.number().int().min(0).max(100).optional(),
  scale: z.string().max(80).optional(),
  wire: z.strictObject({ unit: z.string().max(60), terminal: z.string().max(120) }).optional(),
  settings: z.record(z.string().max(40), z.unknown()).optional(),
});

export const PATCH = route(async ({ locals, request, params }) =>
  editChannel(locals.app, params.id!, await readJson(request, Edit), locals.person.viewer.name),
);
export const DELETE = route(({ locals, params }) =>
  removeChannel(locals.app, params.id!, locals.person.viewer.name),
);
