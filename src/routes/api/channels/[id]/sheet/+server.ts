import { z } from 'zod';
import { compareSheet, takeSheet } from '$service/sensors';
import { readJson, route } from '../../../../http';

/** What taking over a sensor's sheet would change. */
export const GET = route(({ locals, params, url }) =>
  compareSheet(locals.app, params.id!, url.searchParams.get('serial') ?? ''),
);
export const POST = route(async ({ locals, request, params }) =>
  takeSheet(
    locals.app,
    params.id!,
    (await readJson(request, z.strictObject({ serial: z.string().max(60) }))).serial,
    locals.person.viewer.name,
  ),
);
