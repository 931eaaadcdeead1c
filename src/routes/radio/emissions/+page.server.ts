import { radioOf } from '$service/radio/radio';
import { corrections, limitSets } from '$service/radio/shelf';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals: { app }, depends }) => {
  depends('farrier:page');
  const { emissions } = radioOf(app);
  return {
    views: emissions.views(),
    runs: emissions.runs(),
    limits: limitSets(app).list(),
    corrections: corrections(app).list(),
  };
};
