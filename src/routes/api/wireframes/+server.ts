import { addFrame, framesOf } from '$service/modal/frames';
import { serve } from '../../serve';

export const GET = serve('GET /api/wireframes', ({ app }) => framesOf(app));
export const POST = serve('POST /api/wireframes', ({ app, body, by }) => addFrame(app, body, by));
