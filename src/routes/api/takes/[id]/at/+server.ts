import { uncertaintiesAt, valuesAt } from '$service/takes';
import { numberList, route } from '../../../../http';

/** Values of signals at one or two instants, for cursors; or their uncertainty there. */
export const GET = route(({ locals, params, url }) => {
  const as = url.searchParams.get('as') === 'recorded' ? 'as recorded' : 'as corrected';
  const signals = numberList(url.searchParams.get('signals'));
  const read = url.searchParams.has('uncertainty') ? uncertaintiesAt : valuesAt;
  return url.searchParams
    .getAll('s')
    .slice(0, 2)
    .map((s) => read(locals.app, params.id!, signals, Number(s), as));
});
