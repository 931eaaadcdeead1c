import { playFile } from '$service/units';
import { route, uploadedFile } from '../../../../http';

/** A recorded file for the unit to play. */
export const POST = route(async ({ locals, request, params }) => {
  const { name, content } = await uploadedFile(request);
  return playFile(locals.app, params.serial!, name, content, locals.person.viewer.name);
});
