import { z } from 'zod';
import { choosePlan, editPlan, removePlan } from '$service/setup/plan';
import { readJson, route } from '../../../http';

/** The values themselves are checked with the whole plan. */
const Edit = z.record(z.string().max(40), z.unknown());

export const PATCH = route(async ({ locals, request, params }) =>
  editPlan(locals.app, await readJson(request, Edit), locals.person.viewer.name, params.id!),
);
/** Makes it the plan that is armed next. */
export const POST = route(({ locals, params }) =>
  choosePlan(locals.app, params.id!, locals.person.viewer.name),
);
export const DELETE = route(({ locals, params }) =>
  removePlan(locals.app, params.id!, locals.person.viewer.name),
);
