import { serialPorts } from '$service/units';
import { serve } from '../../serve';

export const GET = serve('GET /api/ports', ({ app }) => serialPorts(app));
