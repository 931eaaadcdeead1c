import { viewAnalysis } from '$service/modal/analyses';
import { framesOf } from '$service/modal/frames';
import { forcesOf, movingOf } from '$service/modal/inputs';
import { pageOf } from '../../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals: { app }, params, depends }) => {
  depends('farrier:page');
  return pageOf(() => {
    const opened = viewAnalysis(app, params.id);
    const [front] = opened.sets;
    return {
      opened,
      frames: framesOf(app),
      signals: movingOf(app, front.spans[0].take),
      forces: forcesOf(app, front.spans[0].take),
    };
  });
};
