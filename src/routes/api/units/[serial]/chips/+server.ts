import { z } from 'zod';
import { scanChips, takeChips } from '$service/sensors';
import { readJson, route } from '../../../../http';

export const GET = route(({ locals, params }) => scanChips(locals.app, params.serial!));
/** Takes over what the chips on these terminals say. */
export const POST = route(async ({ locals, request, params }) =>
  takeChips(
    locals.app,
    params.serial!,
    (await readJson(request, z.strictObject({ terminals: z.array(z.string().max(120)).min(1).max(500) })))
      .terminals,
    locals.person.viewer.name,
  ),
);
