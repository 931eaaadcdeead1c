import { proofs } from '$service/calibrate/overview';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends, parent }) => {
  depends('farrier:setup');
  const { overview } = await parent();
  return { proofs: proofs(locals.app, overview?.channels) };
};
