import { betweenOf } from '$service/inspect/read';
import { serve } from '../../serve';

export const POST = serve('POST /api/between', ({ app, body }) => betweenOf(app, body.asks, body.recorded));
