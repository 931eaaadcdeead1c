import { trailOf } from '$service/study/trail';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/studies/[id]/trail', ({ app, params }) => trailOf(app, params.id));
