import { viewStudies } from '$service/study/studies';
import { canRead, takeRows, viewTake } from '$service/takes';
import { pageOf } from '../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('farrier:page');
  const takes = takeRows(locals.app).filter((t) => t.state !== 'recording');
  const wanted = url.searchParams.get('take');
  const chosen = takes.find((t) => t.id === wanted) ?? takes.find((t) => canRead(locals.app, t.id));
  if (!chosen) return { take: null, studies: [] };
  return {
    take: pageOf(() => viewTake(locals.app, chosen.id)),
    studies: viewStudies(locals.app).filter((s) => s.takeId === chosen.id),
  };
};
