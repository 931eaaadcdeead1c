import { startStudy } from '$service/study/studies';
import { serve } from '../../serve';

export const POST = serve('POST /api/studies', ({ app, body, by }) => startStudy(app, body, by).view);
