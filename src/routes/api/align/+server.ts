import { alignTakes } from '$service/inspect/align';
import { serve } from '../../serve';

export const POST = serve('POST /api/align', ({ app, body }) => alignTakes(app, body));
