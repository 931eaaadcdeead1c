import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url }) => {
  try {
    return {
      take: viewTake(
        locals.app,
        params.id,
        url.searchParams.get('as') === 'recorded' ? 'as recorded' : 'as corrected',
      ),
    };
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
