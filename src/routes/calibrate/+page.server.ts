import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';
import { calibratable } from '$service/calibrate';

/** Opens a channel that can be calibrated by points. */
export const load: PageServerLoad = ({ locals }) => {
  const [first] = calibratable(locals.app);
  if (first) redirect(307, `/calibrate/${first.id}`);
};
