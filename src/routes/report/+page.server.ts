import { viewStudies } from '$service/studies';
import { takeRows, viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('farrier:studies');
  const takes = takeRows(locals.app).filter((t) => t.state !== 'recording');
  const wanted = url.searchParams.get('take');
  const chosen = takes.find((t) => t.id === wanted) ?? takes[0];
  if (!chosen) return { take: null, studies: [] };
  return {
    take: viewTake(locals.app, chosen.id),
    studies: viewStudies(locals.app).filter((s) => s.takeId === chosen.id),
  };
};
