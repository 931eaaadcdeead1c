import { slidesOf } from '$service/report/slides';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/reports/[id]/slides', async ({ app, params, query, by }) => {
  const { name, pptx } = await slidesOf(app, params.id, query.takes, by);
  return fileResponse(
    new Uint8Array(pptx),
    name,
    'application/vnd.openxmlformats-officedocument.presentationml.presentation',
  );
});
