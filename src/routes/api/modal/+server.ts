import { addAnalysis, viewAnalyses } from '$service/modal/analyses';
import { serve } from '../../serve';

export const GET = serve('GET /api/modal', ({ app }) => viewAnalyses(app));
export const POST = serve('POST /api/modal', ({ app, body, by }) => addAnalysis(app, body, by).view);
