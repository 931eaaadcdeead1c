import { error as pageError, json, type RequestEvent } from '@sveltejs/kit';
import type { z } from 'zod';
import { FarrierError, badInput, check, type ErrorCode } from '$service/faults';

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

/** A server route that answers JSON: turns a domain error into its status and its four sentences. */
export const route =
  (answer: (event: RequestEvent) => unknown) =>
  async (event: RequestEvent): Promise<Response> => {
    try {
      const value = await answer(event);
      return value instanceof Response ? value : json(value ?? null);
    } catch (error) {
      if (!(error instanceof FarrierError)) throw error;
      return json({ error: error.text }, { status: STATUS[error.code] });
    }
  };

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
    value = await request.json();
  } catch {
    throw badInput('request', 'no JSON', 'Send a JSON object.');
  }
  return check(schema, value);
}

/** A whole-number list such as “3,5”; empty text is an empty list. @throws `bad_input` */
export function numberList(text: string | null): number[] {
  if (!text) return [];
  return text.split(',').map((part) => {
    const value = Number(part);
    if (!Number.isInteger(value) || value < 0)
      throw badInput('list', part, 'Give whole numbers, separated by commas.');
    return value;
  });
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

/** An uploaded file: the request's body, its name in a header. @throws `bad_input` when it is empty */
export async function uploadedFile(request: Request): Promise<{ name: string; content: Buffer }> {
  const content = Buffer.from(await request.arrayBuffer());
  if (content.length === 0) throw badInput('file', 'empty', 'Choose a file with something in it.');
  const name = decodeURIComponent(request.headers.get('x-file-name') ?? 'file').slice(0, 200);
  return { name, content };
}
