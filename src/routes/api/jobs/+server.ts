import { z } from 'zod';
import { goOnWith, newJob } from '$service/jobs';
import { readJson, route } from '../../http';

const Act = z.union([
  z.strictObject({
    name: z.string().trim().min(1, 'Give the job a name.').max(80),
    place: z.string().trim().max(80),
  }),
  z.strictObject({ id: z.string().max(64) }),
]);

/** Makes a job or switches to one. */
export const POST = route(async ({ locals, request }) => {
  const act = await readJson(request, Act);
  return 'id' in act ? goOnWith(locals.app, act.id) : newJob(locals.app, act.name, act.place);
});
