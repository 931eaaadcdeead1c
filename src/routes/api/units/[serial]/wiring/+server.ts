import { wiringPdf } from '$service/report/wiring';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/units/[serial]/wiring', async ({ app, params }) => {
  const { name, pdf } = await wiringPdf(app, params.serial);
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
