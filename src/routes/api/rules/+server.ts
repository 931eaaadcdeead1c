import { z } from 'zod';
import { editRule } from '$service/setup/plan';
import { readJson, route } from '../../http';

export const POST = route(async ({ locals, request }) =>
  editRule(
    locals.app,
    null,
    await readJson(request, z.record(z.string().max(40), z.unknown())),
    locals.person.viewer.name,
  ),
);
