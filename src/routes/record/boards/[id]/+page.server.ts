import { boardOf } from '$service/boards';
import { pageOf } from '../../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params }) =>
  pageOf(() => ({ board: boardOf(locals.app, params.id) }));
