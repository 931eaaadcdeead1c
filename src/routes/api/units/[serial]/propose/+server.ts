import { proposeLines } from '$service/units';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/propose', ({ app, params }) =>
  proposeLines(app, params.serial),
);
