import { z } from 'zod';
import { addUnit } from '$service/units';
import { readJson, route } from '../../http';

/** Adds a unit from the catalogue. */
export const POST = route(async ({ locals, request }) =>
  addUnit(
    locals.app,
    (await readJson(request, z.strictObject({ kind: z.string().max(60) }))).kind,
    locals.person.viewer.name,
  ),
);
