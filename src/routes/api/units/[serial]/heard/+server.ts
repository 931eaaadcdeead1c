import { heard, send } from '$service/units';
import { z } from 'zod';
import { readJson, route } from '../../../../http';

export const GET = route(({ locals, params }) => heard(locals.app, params.serial!));
/** Sends a line or frame by hand. */
export const POST = route(async ({ locals, request, params }) =>
  send(
    locals.app,
    params.serial!,
    (
      await readJson(
        request,
        z.strictObject({ text: z.string().min(1, 'Write something to send.').max(2000) }),
      )
    ).text,
    locals.person.viewer.name,
  ),
);
