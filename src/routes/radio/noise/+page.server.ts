import { radioOf } from '$service/radio/radio';
import { corrections, noiseSources } from '$service/radio/shelf';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals: { app }, depends }) => {
  depends('farrier:page');
  const { noise } = radioOf(app);
  return {
    views: noise.views(),
    results: noise.results(),
    sources: noiseSources(app).list(),
    corrections: corrections(app).list(),
  };
};
