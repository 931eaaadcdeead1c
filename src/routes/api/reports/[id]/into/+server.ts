import { putInto } from '$service/report/out/into';
import { uploadedFile } from '../../../../http';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/reports/[id]/into', async ({ app, params, query, by, event }) =>
  putInto(app, { report: params.id, ...query }, (await uploadedFile(event.request)).content, by),
);
