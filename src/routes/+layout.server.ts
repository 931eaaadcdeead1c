import { overview } from '$service/overview';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals, url, depends }) => {
  depends('farrier:setup');
  // Whoever comes here may not have been let in, and pages of errors come here, too.
  if (!locals.letIn || url.pathname === '/enter') return { overview: null };
  return { overview: overview(locals.app) };
};
