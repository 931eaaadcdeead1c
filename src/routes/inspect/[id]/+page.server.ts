import { writtenName } from '$service/at-end';
import { viewTake } from '$service/takes';
import { pageOf } from '../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  pageOf(() => {
    depends('farrier:page');
    const meaning = url.searchParams.get('as') === 'recorded' ? 'as recorded' : 'as corrected';
    const take = viewTake(locals.app, params.id, meaning);
    return { take, written: writtenName(locals.app, take.head) };
  });
