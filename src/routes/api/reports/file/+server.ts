import { bringReport } from '$service/report/travel';
import { uploadedFile } from '../../../http';
import { serve } from '../../../serve';

export const POST = serve('POST /api/reports/file', async ({ app, query, by, event }) =>
  bringReport(app, (await uploadedFile(event.request)).content, query.style === 'yes', by),
);
