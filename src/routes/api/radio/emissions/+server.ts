import { radioOf } from '$service/radio/radio';
import { serve } from '../../../serve';

export const GET = serve('GET /api/radio/emissions', ({ app }) => radioOf(app).emissions.views());
