import { steadinessOf } from '$service/calibrate/points';
import { route } from '../../../http';

/** How still channels are now; a fault of one is told beside the others. */
export const GET = route(({ locals, url }) => {
  const q = url.searchParams;
  return steadinessOf(
    locals.app,
    (q.get('channels') ?? '').split(',').slice(0, 65),
    Number(q.get('tolerance')),
    Number(q.get('hold')),
  );
});
