import { madeNow } from '$service/outgoing';
import { fileResponse } from '../../../../http';
import { serve } from '../../../../serve';

export const GET = serve('GET /api/spreadsheets/[id]/file', async ({ app, params, query }) => {
  const { name, body } = await madeNow(app, { what: 'spreadsheet', spreadsheet: params.id, ...query }, null);
  return fileResponse(body, name, 'application/octet-stream');
});
