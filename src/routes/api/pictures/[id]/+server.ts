import { pictureOf } from '$service/boards';
import { route } from '../../../http';

export const GET = route(({ locals, params }) => {
  const { type, content } = pictureOf(locals.app, Number(params.id));
  return new Response(new Uint8Array(content), {
    headers: { 'content-type': type, 'cache-control': 'private, max-age=31536000, immutable' },
  });
});
