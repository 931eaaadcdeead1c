import { viewTake } from '$service/takes';
import { pageOf } from '../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url }) =>
  pageOf(() => ({
    take: viewTake(
      locals.app,
      params.id,
      url.searchParams.get('as') === 'recorded' ? 'as recorded' : 'as corrected',
    ),
  }));
