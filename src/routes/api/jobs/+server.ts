import { goOnWith, newJob } from '$service/jobs';
import { serve } from '../../serve';

export const POST = serve('POST /api/jobs', ({ app, body, by }) =>
  'id' in body ? goOnWith(app, body.id, by) : newJob(app, body.name, body.place, by),
);
