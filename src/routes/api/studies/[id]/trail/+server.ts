import { trailOf } from '$service/study/trail';
import { route } from '../../../../http';

export const GET = route(({ locals, params }) => trailOf(locals.app, params.id!));
