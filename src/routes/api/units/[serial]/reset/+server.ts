import { resetUnit } from '$service/units';
import { route } from '../../../../http';

export const POST = route(({ locals, params }) =>
  resetUnit(locals.app, params.serial!, locals.person.viewer.name),
);
