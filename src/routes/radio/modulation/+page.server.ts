import { radioOf } from '$service/radio/radio';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  const radio = radioOf(locals.app);
  const take = url.searchParams.get('take');
  const shown = take ? radio.open(take) : null;
  return { views: radio.views(), shown };
};
