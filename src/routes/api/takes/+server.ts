import { importTake } from '$service/exchange';
import { optionsOf, route, uploadedFile } from '../../http';

/** Brings a file of another program in as a take: its bytes as the body, its name in a header, ?format and ?options as JSON where they are not
 *  to be found by themselves. */
export const POST = route(async ({ locals, request, url }) => {
  const { name, content } = await uploadedFile(request);
  const format = url.searchParams.get('format') ?? undefined;
  const { id } = await importTake(
    locals.app,
    { name, content },
    { format, options: optionsOf(url.searchParams.get('options')) },
    locals.person.viewer.name,
  );
  return { id };
});
