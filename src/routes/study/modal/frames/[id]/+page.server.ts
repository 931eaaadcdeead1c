import { frameChannels, frameOf } from '$service/modal/frames';
import { pageOf } from '../../../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals: { app }, params, url, depends }) => {
  depends('farrier:page');
  const take = url.searchParams.get('take');
  return pageOf(() => ({ opened: frameOf(app, params.id, take), channels: frameChannels(app, take) }));
};
