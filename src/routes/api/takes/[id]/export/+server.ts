import { exportTake } from '$service/exchange';
import { fileResponse, numberList, optionsOf, route } from '../../../../http';

/** A take in an open format: ?format, ?signals by their numbers in the file (all when none is named), ?options as JSON. */
export const GET = route(({ locals, params, url }) => {
  const q = url.searchParams;
  const { name, mediaType, body } = exportTake(locals.app, params.id!, {
    format: q.get('format') ?? 'csv',
    signals: numberList(q.get('signals')),
    options: optionsOf(q.get('options')),
  });
  return fileResponse(body, name, mediaType);
});
