import { watchedSettings } from '$service/inbox';
import { viewSpreadsheets } from '$service/sheets/presets';
import { takeRows } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  const wanted = url.searchParams.get('take');
  const takes = takeRows(locals.app).filter((t) => t.state !== 'recording');
  return {
    spreadsheets: viewSpreadsheets(locals.app),
    watched: watchedSettings(locals.app),
    take: (takes.find((t) => t.id === wanted) ?? takes[0])?.id ?? null,
  };
};
