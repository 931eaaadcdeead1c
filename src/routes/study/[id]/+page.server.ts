import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { studyKinds, variantsOf, viewStudy } from '$service/study/studies';
import { viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('farrier:page');
  try {
    const study = viewStudy(locals.app, params.id);
    if (!studyKinds().some((k) => k.kind === study.kind))
      error(404, { message: study.fault!.what, next: study.fault!.next });
    return {
      study,
      take: viewTake(locals.app, study.takeId),
      variants: variantsOf(locals.app, params.id),
    };
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
