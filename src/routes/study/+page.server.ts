import { studyKinds, viewStudies } from '$service/study/studies';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:studies');
  return { studies: viewStudies(locals.app), kinds: studyKinds() };
};
