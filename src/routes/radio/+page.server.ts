import { radioOf } from '$service/radio/radio';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { views: radioOf(locals.app).views() };
};
