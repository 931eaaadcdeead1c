import { addSeries, seriesOf } from '$service/inspect/series';
import { serve } from '../../serve';

export const GET = serve('GET /api/series', ({ app }) => seriesOf(app));

export const POST = serve('POST /api/series', ({ app, body, by }) =>
  addSeries(app, body.name, body.series, by),
);
