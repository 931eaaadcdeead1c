import { offeredBy } from '$service/inspect/list';
import { serve } from '../../../serve';

export const GET = serve('GET /api/takes/offered', ({ app }) => offeredBy(app));
