import { stripsOf } from '$service/inspect/strips';
import { serve } from '../../serve';

export const GET = serve('GET /api/strips', ({ app, query }) => stripsOf(app, query.takes, query.channel));
