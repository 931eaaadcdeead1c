import { z } from 'zod';
import { route } from '../../http';
import { check } from '$service/faults';

const Names = z.array(z.string().max(80)).max(64);

/** The live feed of one page. */
export const GET = route(({ locals, url }) => {
  const list = (key: string) => check(Names, (url.searchParams.get(key) ?? '').split(',').filter(Boolean));
  const look = { strips: list('strips'), waves: list('waves'), person: locals.person };
  return new Response(locals.app.live.stream(look), {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
});
