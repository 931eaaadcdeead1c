import { makeReport } from '$service/report/report';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve(
  'GET /api/takes/[id]/report',
  async ({ app, params, query: { signals = null, studies } }) => {
    const { name, pdf } = await makeReport(app, params.id, { signals, studies });
    return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
  },
);
