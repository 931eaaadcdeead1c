import { chainText, kindsOfLog, logPage } from '$service/logbook';
import { filterOf } from '../log-filter';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('farrier:page');
  return {
    entries: logPage(locals.app, filterOf(url)),
    kinds: kindsOfLog(locals.app),
    chain: chainText(locals.app),
    filter: filterOf(url),
  };
};
