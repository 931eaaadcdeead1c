import { keepPicture } from '$service/boards';
import { uploadedFile } from '../../http';
import { serve } from '../../serve';

export const POST = serve('POST /api/pictures', async ({ app, event }) => ({
  id: keepPicture(app, (await uploadedFile(event.request)).content),
}));
