import { fieldOf } from '$service/field/field';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  return { field: fieldOf(locals.app).view(), shown: url.searchParams.get('recorder') };
};
