import { error as pageError, json, type RequestEvent } from '@sveltejs/kit';
import type { z } from 'zod';
import { FarrierError, badInput, check, isDiskFull, type ErrorCode } from '$service/faults';

/** The one place that knows status codes. */
const STATUS = {
  bad_input: 400,
  not_found: 404,
  conflict: 409,
  damaged: 422,
  not_allowed: 403,
  cancelled: 409,
  unavailable: 503,
} satisfies Record<ErrorCode, number>;

/** A server route that answers JSON: turns a domain error into its status and its four sentences. What nobody foresaw is answered in
 *  words, too, and stands in the log of the server. */
export const route =
  (answer: (event: RequestEvent) => unknown) =>
  async (event: RequestEvent): Promise<Response> => {
    try {
      const value = await answer(event);
      return value instanceof Response ? value : json(value ?? null);
    } catch (thrown) {
      const error = faultOf(thrown);
      if (!error) throw thrown; // a redirect, or the framework's own
      return json({ error: error.text }, { status: STATUS[error.code] });
    }
  };

/** Any thrown thing as a fault that can be read; null for what is the framework's. */
function faultOf(thrown: unknown): FarrierError | null {
  if (thrown instanceof FarrierError) return thrown;
  if (!(thrown instanceof Error)) return null;
  const { code } = thrown as { code?: string };
  if (thrown instanceof URIError || (thrown instanceof RangeError && /call stack/.test(thrown.message)))
    return new FarrierError('bad_input', {
      what:
        thrown instanceof URIError ? 'A name in this request cannot be read.' : 'This is nested too deeply.',
      where: 'request',
      next: 'Send it as Farrier’s own pages do.',
    });
  if (isDiskFull(thrown))
    return new FarrierError('unavailable', {
      what: 'The disk is full: this was not kept.',
      where: 'disk',
      next: 'Free at least 50 MB, then do it again.',
    });
  if (code === 'SQLITE_CORRUPT' || code === 'SQLITE_NOTADB')
    return new FarrierError('damaged', {
      what: 'A file of Farrier’s cannot be read any more.',
      where: 'data folder',
      why: thrown.message,
      next: 'Restore it from a copy; the README says how for the job database.',
    });
  console.error(thrown);
  return new FarrierError('unavailable', {
    what: 'This did not work.',
    why: thrown.message.slice(0, 200),
    next: 'Try again. The log of the server says more.',
  });
}

/** What a page shows, or the page that says in words why it cannot. */
export function pageOf<T>(read: () => T): T {
  try {
    return read();
  } catch (fault) {
    if (fault instanceof FarrierError) pageError(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
}

/** The request's JSON by a schema. @throws `bad_input` */
export async function readJson<S extends z.ZodType>(request: Request, schema: S): Promise<z.infer<S>> {
  let value: unknown;
  try {
    const text = await request.text();
    if (depthOf(text) > MOST_DEPTH)
      throw badInput('request', `nested over ${MOST_DEPTH} deep`, 'Send it flatter.');
    value = JSON.parse(text);
  } catch (error) {
    if (error instanceof FarrierError) throw error;
    throw badInput('request', 'no JSON', 'Send a JSON object.');
  }
  return check(schema, value);
}

const MOST_DEPTH = 100;
/** How deeply brackets stand within each other; those within texts count, too, which only makes it stricter. */
function depthOf(text: string): number {
  let depth = 0;
  let most = 0;
  for (let i = 0; i < text.length; i++) {
    const sign = text.charCodeAt(i);
    if (sign === 91 || sign === 123) most = Math.max(most, ++depth);
    else if (sign === 93 || sign === 125) depth--;
  }
  return most;
}

/** A file to be saved, named safely for every system. */
export function fileResponse(body: BodyInit, name: string, mediaType: string): Response {
  const plain = name.replace(/[^\w.-]+/g, '-');
  return new Response(body, {
    headers: {
      'content-type': mediaType,
      'content-disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(name.replace(/[/\\]/g, '-'))}`,
      'cache-control': 'no-store',
    },
  });
}

/** Bytes that the pages read themselves. */
export const bytesResponse = (bytes: Uint8Array<ArrayBuffer>): Response =>
  new Response(bytes, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });

/** An uploaded file: the request's body, its name in a header. @throws `bad_input` when it is empty */
export async function uploadedFile(request: Request): Promise<{ name: string; content: Buffer }> {
  const content = Buffer.from(await request.arrayBuffer());
  if (content.length === 0) throw badInput('file', 'empty', 'Choose a file with something in it.');
  return { name: fileName(request.headers.get('x-file-name') ?? 'file'), content };
}

/** A file's name as the browser sent it; one that is not encoded as it should be is taken as it stands. */
function fileName(sent: string): string {
  try {
    return decodeURIComponent(sent).slice(0, 200);
  } catch {
    return sent.slice(0, 200);
  }
}

/** The request's form. @throws `bad_input` when it is none */
export async function readForm(request: Request): Promise<FormData> {
  try {
    return await request.formData();
  } catch {
    throw badInput('request', 'no form', 'Send it as a form (multipart/form-data).');
  }
}
