import { proofs } from '$service/calibrate/overview';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { proofs: proofs(locals.app) };
};
