import { fieldOf } from '$service/field/field';
import { serve } from '../../../serve';

export const PUT = serve('PUT /api/field/cradles', ({ app, body, by }) => fieldOf(app).change(body, by));
