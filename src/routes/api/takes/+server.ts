import { findTakes } from '$service/inspect/list';
import { serve } from '../../serve';

export const GET = serve('GET /api/takes', ({ app, query }) => findTakes(app, query));
