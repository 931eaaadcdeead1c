import { sealOf } from '$service/takes';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/takes/[id]/seal', ({ app, params }) => sealOf(app, params.id));
