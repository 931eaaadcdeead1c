import { setColumns } from '$service/overview';
import { serve } from '../../serve';

export const POST = serve('POST /api/layout', ({ app, body }) => setColumns(app, body.columns));
