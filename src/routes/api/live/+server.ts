import { z } from 'zod';
import { route } from '../../http';
import { check } from '$service/faults';

const Strips = z.array(z.string().max(64)).max(64);

/** The live feed of one page. */
export const GET = route(({ locals, url }) => {
  const strips = check(Strips, (url.searchParams.get('strips') ?? '').split(',').filter(Boolean));
  return new Response(locals.app.live.stream(strips), {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
});
