import { reportFile } from '$service/report/travel';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/reports/[id]/file', ({ app, params }) => {
  const { name, text } = reportFile(app, params.id);
  return fileResponse(text, name, 'application/json');
});
