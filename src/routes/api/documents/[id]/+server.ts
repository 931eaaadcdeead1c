import { readDocument, removeDocument } from '$service/sensors';
import { fileResponse, route } from '../../../http';

export const GET = route(({ locals, params }) => {
  const { name, content } = readDocument(locals.app, Number(params.id));
  return fileResponse(new Uint8Array(content), name, 'application/octet-stream');
});
export const DELETE = route(({ locals, params }) => removeDocument(locals.app, Number(params.id)));
