import { z } from 'zod';
import { goBackTo, history } from '$service/setup/change';
import { readJson, route } from '../../http';

export const GET = route(({ locals, url }) => history(locals.app, url.searchParams.get('take') ?? undefined));
/** Takes back everything after a change. */
export const POST = route(async ({ locals, request }) => ({
  says: await goBackTo(
    locals.app,
    (await readJson(request, z.strictObject({ to: z.number().int().min(0) }))).to,
    locals.person.viewer.name,
  ),
}));
