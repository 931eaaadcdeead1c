import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { viewStudies, viewStudy, studyKinds } from '$service/studies';
import { viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('farrier:studies');
  try {
    const study = viewStudy(locals.app, params.id);
    return {
      study,
      take: viewTake(locals.app, study.takeId),
      studies: viewStudies(locals.app),
      kinds: studyKinds(),
    };
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
