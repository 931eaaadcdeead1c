import { proposeLines } from '$service/units';
import { route } from '../../../../http';

export const GET = route(({ locals, params }) => proposeLines(locals.app, params.serial!));
