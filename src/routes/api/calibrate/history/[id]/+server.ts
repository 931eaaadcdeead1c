import { historyCsv, historyJson } from '$service/calibrate/history';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/calibrate/history/[id]', ({ app, params, query }) => {
  const { name, text, mediaType } = (query.as === 'csv' ? historyCsv : historyJson)(app, params.id);
  return fileResponse(text, name, mediaType);
});
