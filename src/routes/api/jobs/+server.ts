import { z } from 'zod';
import { nameText } from '$contract/name-text';
import { goOnWith, newJob } from '$service/jobs';
import { readJson, route } from '../../http';

const Act = z.union([
  z.strictObject({
    name: nameText(80),
    place: z.string().trim().max(80),
  }),
  z.strictObject({ id: z.string().max(64) }),
]);

/** Makes a job or switches to one. */
export const POST = route(async ({ locals, request }) => {
  const act = await readJson(request, Act);
  return 'id' in act
    ? goOnWith(locals.app, act.id, locals.person.viewer.name)
    : newJob(locals.app, act.name, act.place, locals.person.viewer.name);
});
