import { keepPicture } from '$service/boards';
import { route, uploadedFile } from '../../http';

/** Keeps a picture for a board. */
export const POST = route(async ({ locals, request }) => ({
  id: keepPicture(locals.app, (await uploadedFile(request)).content),
}));
