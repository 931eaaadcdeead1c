import { drawingsOf, keepDrawing } from '$service/inspect/drawings';
import { serve } from '../../serve';

export const GET = serve('GET /api/drawings', ({ app }) => drawingsOf(app));

export const PUT = serve('PUT /api/drawings', ({ app, body, by }) =>
  keepDrawing(app, body.name, body.drawing, by),
);
