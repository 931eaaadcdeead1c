/** What the server says of a fault, in its four sentences. */
export interface FaultText {
  what: string;
  where?: string;
  why?: string;
  next?: string;
}

export class Fault extends Error {
  constructor(
    readonly text: FaultText,
    readonly status: number,
  ) {
    super([text.what, text.why, text.next].filter(Boolean).join(' '));
  }
}

/** Any thrown thing as sentences for the page. */
export function faultText(thrown: unknown): FaultText {
  if (thrown instanceof Fault) return thrown.text;
  if (thrown instanceof TypeError)
    return { what: 'Farrier does not answer.', next: 'Is it still running? What is recorded goes on there.' };
  return { what: thrown instanceof Error ? thrown.message : String(thrown) };
}

/** Calls the server. @throws Fault with its sentences */
export async function call<T = unknown>(
  method: 'GET' | 'POST' | 'PATCH' | 'DELETE',
  path: string,
  body?: unknown,
  /** Sent to its end even when the page is left. */
  keepalive = false,
): Promise<T> {
  const response = await fetch(path, {
    method,
    keepalive,
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  const text = await response.text();
  let value: unknown = null;
  try {
    value = text ? JSON.parse(text) : null;
  } catch {
    // an answer that is no JSON is told by its status below
  }
  if (!response.ok)
    throw new Fault(
      (value as { error?: FaultText } | null)?.error ?? {
        what: `The server answered ${response.status}.`,
        next: 'Try again.',
      },
      response.status,
    );
  return value as T;
}

/** Sends a file as it is. @throws Fault with the server's sentences */
export async function upload<T = unknown>(path: string, file: File): Promise<T> {
  const response = await fetch(path, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream', 'x-file-name': encodeURIComponent(file.name) },
    body: file,
  });
  const value = (await response.json().catch(() => null)) as { error?: FaultText } | null;
  if (!response.ok)
    throw new Fault(value?.error ?? { what: `The server answered ${response.status}.` }, response.status);
  return value as T;
}
