import { certificatePdf } from '$service/report/certificate';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/calibrate/certificate/[id]', async ({ app, params }) => {
  const { name, pdf } = await certificatePdf(app, params.id);
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
