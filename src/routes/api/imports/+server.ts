import { beginImport } from '$service/inspect/imports';
import { serve } from '../../serve';

export const POST = serve('POST /api/imports', ({ app, body, by }) => beginImport(app, body, by));
