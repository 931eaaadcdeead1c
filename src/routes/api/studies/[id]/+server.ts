import { z } from 'zod';
import { cancelStudy, changeStudy, removeStudy, viewStudy } from '$service/studies';
import { readJson, route } from '../../../http';

export const GET = route(({ locals, params }) => viewStudy(locals.app, params.id!));
/** New settings (none computes anew), or with ?cancel ends the computation. */
export const PATCH = route(async ({ locals, params, request, url }) => {
  if (url.searchParams.has('cancel')) return cancelStudy(locals.app, params.id!);
  return changeStudy(
    locals.app,
    params.id!,
    await readJson(request, z.record(z.string().max(40), z.unknown())),
  ).view;
});
export const DELETE = route(({ locals, params }) => removeStudy(locals.app, params.id!));
