import { z } from 'zod';
import { editRule, removeRule } from '$service/setup/plan';
import { readJson, route } from '../../../http';

export const PATCH = route(async ({ locals, request, params }) =>
  editRule(
    locals.app,
    params.id!,
    await readJson(request, z.record(z.string().max(40), z.unknown())),
    locals.person.viewer.name,
  ),
);
export const DELETE = route(({ locals, params }) =>
  removeRule(locals.app, params.id!, locals.person.viewer.name),
);
