import type { AnswerOf, Ask, Key } from '$contract/api';
import { addressOf } from '$contract/api/address';

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

/** What may be sent along, whatever the endpoint. */
interface Sent {
  params?: Record<string, string>;
  query?: Record<string, unknown>;
  body?: unknown;
  file?: File;
  form?: FormData;
}
/** Sent to its end even when the page is left. */
interface How {
  keepalive?: boolean;
  signal?: AbortSignal;
}

/** Sends a request to an endpoint of the list. @throws Fault with the server's sentences */
export async function send(key: Key, sent: Sent = {}, how: How = {}): Promise<Response> {
  const headers: Record<string, string> = {};
  if (sent.body !== undefined) headers['content-type'] = 'application/json';
  if (sent.file) {
    headers['content-type'] = 'application/octet-stream';
    headers['x-file-name'] = encodeURIComponent(sent.file.name);
  }
  const response = await fetch(addressOf(key, sent), {
    ...how,
    method: key.slice(0, key.indexOf(' ')),
    headers,
    body: sent.file ?? sent.form ?? (sent.body === undefined ? undefined : JSON.stringify(sent.body)),
  });
  if (response.ok) return response;
  const value = (await response.json().catch(() => null)) as { error?: FaultText } | null;
  throw new Fault(
    value?.error ?? { what: `The server answered ${response.status}.`, next: 'Try again.' },
    response.status,
  );
}

/** Calls an endpoint of the list, which says what it needs and what it answers. @throws Fault with the server's sentences */
export async function call<K extends Key>(
  key: K,
  ...[sent, how]: unknown extends Ask<K> ? [sent?: Ask<K>, how?: How] : [sent: Ask<K>, how?: How]
): Promise<AnswerOf<K>> {
  const response = await send(key, sent as Sent, how);
  return ((await response.text().then((text) => (text ? JSON.parse(text) : null))) ?? null) as AnswerOf<K>;
}
