import { fieldOf } from '$service/field/field';
import { serve } from '../../../serve';

export const PUT = serve('PUT /api/field/batch', ({ app, body, by }) => fieldOf(app).setBatch(body.wish, by));
