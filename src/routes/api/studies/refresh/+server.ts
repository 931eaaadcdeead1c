import { refreshStudies } from '$service/study/studies';
import { serve } from '../../../serve';

export const POST = serve('POST /api/studies/refresh', ({ app, by }) => {
  const { begun, done } = refreshStudies(app, by);
  void done;
  return { begun };
});
