import { z } from 'zod';
import { addChannel, addChannels } from '$service/setup/channels';
import { readJson, route } from '../../http';

const NewChannel = z.strictObject({
  name: z.string().max(200),
  kind: z.string().max(40),
  group: z.string().max(60).optional(),
  sensorSerial: z.string().max(60).optional(),
  wire: z.strictObject({ unit: z.string().max(60), terminal: z.string().max(120) }).nullable(),
  settings: z.record(z.string(), z.unknown()).optional(),
});

/** Adds one channel, or several as one change. */
export const POST = route(async ({ locals, request }) => {
  const input = await readJson(request, z.union([NewChannel, z.array(NewChannel).min(1).max(2000)]));
  return Array.isArray(input)
    ? addChannels(locals.app, input, locals.person.viewer.name)
    : addChannel(locals.app, input, locals.person.viewer.name);
});
