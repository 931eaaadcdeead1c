import { pictureOf } from '$service/boards';
import { serve } from '../../../serve';

export const GET = serve('GET /api/pictures/[id]', ({ app, params }) => {
  const { type, content } = pictureOf(app, Number(params.id));
  return new Response(new Uint8Array(content), {
    headers: { 'content-type': type, 'cache-control': 'private, max-age=31536000, immutable' },
  });
});
