import { overview } from '$service/overview';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals, url, depends }) => {
  depends('farrier:setup');
  if (url.pathname === '/enter') return { overview: null };
  return { overview: overview(locals.app) };
};
