import { z } from 'zod';
import { allowHost, listHosts } from '$service/hosts';
import { readJson, route } from '../../http';

/** Hosts that rules may call. */
export const GET = route(({ locals }) => listHosts(locals.app));

/** Puts one on the list, or takes it off. */
export const POST = route(async ({ locals: { app, person }, request }) => {
  const { host, allowed } = await readJson(
    request,
    z.strictObject({ host: z.string().max(260), allowed: z.boolean() }),
  );
  return allowHost(app, host, allowed, person.viewer.name);
});
