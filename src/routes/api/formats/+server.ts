import { formats } from '$service/exchange';
import { serve } from '../../serve';

export const GET = serve('GET /api/formats', () => formats());
