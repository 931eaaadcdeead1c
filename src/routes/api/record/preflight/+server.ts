import { preflightNow } from '$service/record';
import { route } from '../../../http';

/** What is wrong or doubtful before the next take. */
export const GET = route(({ locals }) => preflightNow(locals.app));
