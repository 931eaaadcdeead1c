import { fieldOf } from '$service/field/field';
import { serve } from '../../serve';

export const GET = serve('GET /api/field', ({ app }) => fieldOf(app).view());
