import { dueOfPlan } from '$service/calibrate/overview';
import { serve } from '../../../serve';

export const GET = serve('GET /api/calibrate/due', ({ app }) => dueOfPlan(app));
