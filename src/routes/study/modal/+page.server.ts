import { viewAnalyses } from '$service/modal/analyses';
import { framesOf } from '$service/modal/frames';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { analyses: viewAnalyses(locals.app), frames: framesOf(locals.app) };
};
