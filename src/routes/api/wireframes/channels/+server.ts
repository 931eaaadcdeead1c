import { frameChannels } from '$service/modal/frames';
import { serve } from '../../../serve';

export const GET = serve('GET /api/wireframes/channels', ({ app, query }) =>
  frameChannels(app, query.take ?? null),
);
