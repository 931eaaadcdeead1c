import { goneReports, viewReports } from '$service/report/reports';
import { houseStyle } from '$service/report/style';
import { reportTemplates } from '$service/report/templates';
import { viewSpreadsheets } from '$service/sheets/presets';
import { takeRows } from '$service/takes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('farrier:page');
  const wanted = url.searchParams.get('take');
  return {
    reports: viewReports(locals.app),
    gone: goneReports(locals.app),
    spreadsheets: viewSpreadsheets(locals.app).map(({ name }) => ({ name })),
    style: houseStyle(locals.app),
    templates: reportTemplates(),
    take: takeRows(locals.app).find((t) => t.id === wanted)?.id ?? null,
  };
};
