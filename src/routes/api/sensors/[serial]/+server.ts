import { attach, removeSensor } from '$service/sensors';
import { route, uploadedFile } from '../../../http';

/** Attaches a paper: certificate or data sheet. */
export const POST = route(async ({ locals, request, params }) => {
  const { name, content } = await uploadedFile(request);
  return attach(locals.app, params.serial!, name, content);
});
export const DELETE = route(({ locals, params }) =>
  removeSensor(locals.app, params.serial!, locals.person.viewer.name),
);
