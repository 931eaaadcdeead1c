import { addPlan, comparePlans } from '$service/setup/plan';
import { serve } from '../../serve';

export const GET = serve('GET /api/plans', ({ app }) => comparePlans(app));
export const POST = serve('POST /api/plans', ({ app, body, by }) => addPlan(app, body, by));
