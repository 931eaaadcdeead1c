import { viewTake } from '$service/takes';
import { route } from '../../../http';

/** Everything about a take but its samples. */
export const GET = route(({ locals, params }) => viewTake(locals.app, params.id!));
