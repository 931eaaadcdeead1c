import { historyCsv, historyJson } from '$service/calibrate/history';
import { fileResponse, route } from '../../../../http';

/** All calibrations of a channel, as CSV or JSON. */
export const GET = route(({ locals, params, url }) => {
  const as = url.searchParams.get('as') === 'csv' ? historyCsv : historyJson;
  const { name, text, mediaType } = as(locals.app, params.id!);
  return fileResponse(text, name, mediaType);
});
