import { z } from 'zod';
import { editPlan } from '$service/setup/plan';
import { readJson, route } from '../../http';

/** The values themselves are checked with the whole plan. */
const Edit = z.record(z.string().max(40), z.unknown());

export const PATCH = route(async ({ locals, request }) =>
  editPlan(locals.app, await readJson(request, Edit)),
);
