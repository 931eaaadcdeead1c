import { z } from 'zod';
import { addPlan, comparePlans } from '$service/setup/plan';
import { readJson, route } from '../../http';

const New = z.strictObject({ name: z.string().max(60), from: z.string().max(64).optional() });

/** Where the job's plans differ. */
export const GET = route(({ locals }) => comparePlans(locals.app));
export const POST = route(async ({ locals, request }) =>
  addPlan(locals.app, await readJson(request, New), locals.person.viewer.name),
);
