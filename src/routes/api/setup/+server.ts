import { exportSetup } from '$service/setup/travel';
import { importSetup } from '$service/setup/travel-import';
import { fileResponse } from '../../http';
import { serve } from '../../serve';

export const GET = serve('GET /api/setup', ({ app }) => {
  const file = exportSetup(app);
  return fileResponse(JSON.stringify(file, null, 1), `${file.job.name} set-up.json`, 'application/json');
});
export const POST = serve('POST /api/setup', ({ app, body: { text, ...choice }, by }) =>
  importSetup(app, text, choice, by),
);
