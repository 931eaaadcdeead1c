import { z } from 'zod';
import { putSensor, viewSensors } from '$service/sensors';
import { readJson, route } from '../../http';

export const GET = route(({ locals }) => viewSensors(locals.app));

const Edit = z.strictObject({
  former: z.string().max(60).nullable(),
  edit: z.record(z.string().max(40), z.unknown()),
});
/** Puts a sensor into the drawer, or changes one. */
export const POST = route(async ({ locals, request }) => {
  const { former, edit } = await readJson(request, Edit);
  return putSensor(locals.app, former, edit, locals.person.viewer.name);
});
