import { takeRows } from '$service/takes';
import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** Opens the newest take; without any the page says what to do. */
export const load: PageServerLoad = ({ locals }) => {
  const newest = takeRows(locals.app).find((t) => t.state !== 'recording');
  if (newest) redirect(307, `/inspect/${newest.id}`);
};
