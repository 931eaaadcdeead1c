import { z } from 'zod';
import { renameTake, viewTake } from '$service/takes';
import { readJson, route } from '../../../http';

/** Everything about a take but its samples. */
export const GET = route(({ locals, params }) => viewTake(locals.app, params.id!));
/** Calls it by another name. */
export const PATCH = route(async ({ locals, request, params }) =>
  renameTake(
    locals.app,
    params.id!,
    (await readJson(request, z.strictObject({ name: z.string().max(400) }))).name,
    locals.person.viewer.name,
  ),
);
