import { overview } from '$service/overview';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals, url, depends }) => {
  depends('farrier:setup');
  // Whoever comes here may not have been let in.
  if (url.pathname === '/enter' || url.pathname.startsWith('/watch/')) return { overview: null };
  return { overview: overview(locals.app) };
};
