import { emissionPdf } from '$service/radio/emission-pdf';
import { fileResponse } from '../../../../../../http';
import { serve } from '../../../../../../serve';

export const GET = serve('GET /api/radio/emissions/runs/[id]/pdf', async ({ app, params }) =>
  fileResponse(new Uint8Array(await emissionPdf(app, params.id)), 'emissions.pdf', 'application/pdf'),
);
