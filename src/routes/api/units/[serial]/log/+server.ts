import { busLog } from '$service/units';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/log', async ({ app, params }) =>
  fileResponse(await busLog(app, params.serial), `${params.serial}.log`, 'text/plain'),
);
