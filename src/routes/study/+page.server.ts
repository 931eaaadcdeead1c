import { studyKinds, viewStudies } from '$service/study/studies';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { studies: viewStudies(locals.app), kinds: studyKinds() };
};
