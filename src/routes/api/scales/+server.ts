import { putScale } from '$service/setup/scales';
import { serve } from '../../serve';

export const POST = serve('POST /api/scales', ({ app, body, by }) => putScale(app, body, by));
