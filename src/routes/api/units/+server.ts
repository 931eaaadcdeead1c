import { addUnit } from '$service/units';
import { serve } from '../../serve';

export const POST = serve('POST /api/units', ({ app, body, by }) => addUnit(app, body.kind, by));
