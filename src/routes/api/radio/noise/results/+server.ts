import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/radio/noise/results', ({ app }) => radioOf(app).noise.results());
