import { Readable } from 'node:stream';
import { writtenFile } from '$service/at-end';
import { fileResponse, route } from '../../../../http';

/** The file that was written when the take ended. */
export const GET = route(({ locals, params }) => {
  const { name, open } = writtenFile(locals.app, params.id!);
  return fileResponse(Readable.toWeb(open()) as ReadableStream, name, 'text/csv; charset=utf-8');
});
