import { viewTokens } from '$service/tokens';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  return { tokens: viewTokens(locals.app), origin: url.origin };
};
