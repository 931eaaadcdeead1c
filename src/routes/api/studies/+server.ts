import { startStudy, viewStudies } from '$service/study/studies';
import { serve } from '../../serve';

export const GET = serve('GET /api/studies', ({ app }) => viewStudies(app));

export const POST = serve('POST /api/studies', ({ app, body, by }) => startStudy(app, body, by).view);
