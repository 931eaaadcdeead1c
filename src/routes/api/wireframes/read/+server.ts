import { readFrame } from '$service/modal/frames';
import { uploadedFile } from '../../../http';
import { serve } from '../../../serve';

export const POST = serve('POST /api/wireframes/read', async ({ event }) => {
  const { content, name } = await uploadedFile(event.request);
  return readFrame(content, name);
});
