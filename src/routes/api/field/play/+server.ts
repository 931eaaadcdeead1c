import { fieldOf } from '$service/field/field';
import { serve } from '../../../serve';

export const POST = serve('POST /api/field/play', ({ app, body }) => fieldOf(app).play(body));
