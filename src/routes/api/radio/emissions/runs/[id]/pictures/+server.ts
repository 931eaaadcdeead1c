import { radioOf } from '$service/radio/radio';
import { uploadedFile } from '../../../../../../http';
import { serve } from '../../../../../../serve';

export const POST = serve('POST /api/radio/emissions/runs/[id]/pictures', async ({ app, params, event }) => {
  const { content } = await uploadedFile(event.request);
  return radioOf(app).emissions.addPicture(params.id, content);
});
