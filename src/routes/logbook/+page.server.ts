import { logPage } from '$service/logbook';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url }) => ({
  entries: logPage(locals.app, Number(url.searchParams.get('before')) || undefined),
});
