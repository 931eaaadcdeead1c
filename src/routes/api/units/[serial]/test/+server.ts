import { selfTest } from '$service/units';
import { route } from '../../../../http';

export const POST = route(({ locals, params }) =>
  selfTest(locals.app, params.serial!, locals.person.viewer.name),
);
