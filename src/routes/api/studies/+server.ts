import { soon, startStudy, viewStudies } from '$service/study/studies';
import { serve } from '../../serve';

export const GET = serve('GET /api/studies', ({ app }) => viewStudies(app));

export const POST = serve('POST /api/studies', ({ app, body, by }) => soon(app, startStudy(app, body, by)));
