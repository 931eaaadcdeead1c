import { FRAME_KINDS, FrameReader, decodeJson } from '$contract/live';
import { comesTrue } from './world';

/** A browser that is only its cookies. */
export class Visitor {
  private readonly jar = new Map<string, string>();
  constructor(private readonly base: string) {}

  async ask(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
    const response = await fetch(this.base + path, {
      method,
      redirect: 'manual',
      headers: {
        cookie: [...this.jar].map(([k, v]) => `${k}=${v}`).join('; '),
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...headers,
      },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [, name, value] = /^([^=]+)=([^;]*)/.exec(cookie)!;
      this.jar.set(name, value);
    }
    return response;
  }
  cookie = (name: string) => this.jar.get(name) ?? '';
  set = (name: string, value: string) => void this.jar.set(name, value);

  /** Opens a live feed. @returns what it was told of people, and what closes it */
  async look(): Promise<{ people: () => { holder: { id: string; name: string } | null; you: { id: string } }; text: () => string; leave: () => void }> {
    const stop = new AbortController();
    const response = await fetch(`${this.base}/api/live?strips=&waves=`, {
      signal: stop.signal,
      headers: { cookie: [...this.jar].map(([k, v]) => `${k}=${v}`).join('; ') },
    });
    const frames = new FrameReader();
    let people: never;
    let text = '';
    void (async () => {
      for await (const piece of response.body!)
        for (const f of frames.push(piece as Uint8Array)) {
          if (f.kind === FRAME_KINDS.people) people = decodeJson(f.payload) as never;
          if (f.kind !== FRAME_KINDS.buckets && f.kind !== FRAME_KINDS.values) text += Buffer.from(f.payload).toString('utf8');
        }
    })().catch(() => undefined);
    await comesTrue(() => people !== undefined);
    return { people: () => people, text: () => text, leave: () => stop.abort() };
  }
} // prettier-ignore
