import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { alarms: locals.app.alarms.list() };
};
