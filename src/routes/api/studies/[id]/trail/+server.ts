import { trailOf } from '$service/studies';
import { route } from '../../../../http';

export const GET = route(({ locals, params }) => trailOf(locals.app, params.id!));
