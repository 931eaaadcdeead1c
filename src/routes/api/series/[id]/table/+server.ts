import { seriesTable } from '$service/inspect/series';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/series/[id]/table', ({ app, params }) => seriesTable(app, params.id));
