import { writtenName } from '$service/at-end';
import { drawingsOf } from '$service/inspect/drawings';
import { takeViews } from '$service/inspect/read';
import { takeRows, viewTake } from '$service/takes';
import { readAddress } from '$ui/inspect/address';
import { pageOf } from '../../http';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url }) =>
  pageOf(() => {
    const looked = readAddress(url.searchParams);
    const main = viewTake(locals.app, params.id, looked.recorded ? 'as recorded' : 'as corrected');
    const byNumber = new Map(takeRows(locals.app).map((t) => [t.number, t.id]));
    const beside = looked.beside
      .flatMap((number) => byNumber.get(number) ?? [])
      .filter((id) => id !== params.id);
    return {
      takes: [main, ...takeViews(locals.app, beside, looked.recorded)],
      looked,
      drawings: drawingsOf(locals.app),
      written: writtenName(locals.app, main.head),
    };
  });
