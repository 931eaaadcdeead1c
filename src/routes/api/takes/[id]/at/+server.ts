import { valuesAt } from '$service/takes';
import { numberList, route } from '../../../../http';

/** Values of signals at one or two instants, for cursors. */
export const GET = route(({ locals, params, url }) => {
  const signals = numberList(url.searchParams.get('signals'));
  return url.searchParams
    .getAll('s')
    .slice(0, 2)
    .map((s) => valuesAt(locals.app, params.id!, signals, Number(s)));
});
