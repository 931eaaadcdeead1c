import { removeScale } from '$service/setup/scales';
import { route } from '../../../http';

export const DELETE = route(({ locals, params }) =>
  removeScale(locals.app, params.id!, locals.person.viewer.name),
);
