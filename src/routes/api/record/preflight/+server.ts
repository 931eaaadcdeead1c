import { preflightNow } from '$service/record';
import { serve } from '../../../serve';

export const GET = serve('GET /api/record/preflight', ({ app }) => preflightNow(app));
