import { playFile } from '$service/units';
import { uploadedFile } from '../../../../http';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/units/[serial]/file', async ({ app, params, by, event }) => {
  const { name, content } = await uploadedFile(event.request);
  return playFile(app, params.serial, name, content, by);
});
