import { importTake } from '$service/exchange';
import { uploadedFile } from '../../http';
import { serve } from '../../serve';

export const POST = serve('POST /api/takes', async ({ app, query, by, event }) => {
  const { id } = await importTake(app, await uploadedFile(event.request), query, by);
  return { id };
});
