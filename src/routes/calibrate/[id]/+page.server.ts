import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { calibrationPage } from '$service/calibrate/overview';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('farrier:page');
  try {
    return calibrationPage(locals.app, params.id);
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
