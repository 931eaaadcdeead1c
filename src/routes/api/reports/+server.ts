import { addReport, viewReports } from '$service/report/reports';
import { reportTemplates } from '$service/report/templates';
import { serve } from '../../serve';

export const GET = serve('GET /api/reports', ({ app }) => ({
  reports: viewReports(app),
  templates: reportTemplates(),
}));
export const POST = serve('POST /api/reports', ({ app, body, by }) => addReport(app, body, by));
