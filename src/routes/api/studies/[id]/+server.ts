import { z } from 'zod';
import { cancelStudy, changeStudy, removeStudy, viewStudy } from '$service/study/studies';
import { readJson, route } from '../../../http';

const Change = z.strictObject({
  settings: z.record(z.string().max(40), z.unknown()).default({}),
  takes: z.array(z.string().max(64)).min(1).max(200).optional(),
});

export const GET = route(({ locals, params }) => viewStudy(locals.app, params.id!));
/** New settings or takes (none computes anew), or with ?cancel ends the computation. */
export const PATCH = route(async ({ locals, params, request, url }) => {
  if (url.searchParams.has('cancel')) return cancelStudy(locals.app, params.id!);
  const { settings, takes } = await readJson(request, Change);
  return changeStudy(locals.app, params.id!, settings, locals.person.viewer.name, takes).view;
});
export const DELETE = route(({ locals, params }) =>
  removeStudy(locals.app, params.id!, locals.person.viewer.name),
);
