import { z } from 'zod';
import { addStandIn } from '$service/server';
import { readJson, route } from '../../http';

/** Adds a stand-in from the catalogue. */
export const POST = route(async ({ locals, request }) =>
  addStandIn(locals.app, (await readJson(request, z.strictObject({ kind: z.string().max(60) }))).kind),
);
