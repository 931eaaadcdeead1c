import { fieldOf, stationsOf } from '$service/field/field';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  return {
    field: fieldOf(locals.app).view(),
    out: stationsOf(locals.app).list(),
    shown: url.searchParams.get('station') ?? url.searchParams.get('recorder'),
  };
};
