import { boardOf } from '$service/boards';
import { pageOf } from '../../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) =>
  pageOf(() => {
    depends('farrier:page');
    return { board: boardOf(locals.app, params.id) };
  });
