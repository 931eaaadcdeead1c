import { vi } from 'vitest';

/** A question of a page, as it came. */
export interface Asked {
  key: string;
  query: Record<string, string>;
  body: never;
}
type Answer = unknown | ((asked: Asked) => unknown);

/** A server that answers as a test says, by method and path; what it is asked is kept. A thrown value is answered as a fault. */
export class PageServer {
  asked: Asked[] = [];
  /** Answers wait for `let` while it is on. */
  slow = false;
  private waiting: (() => void)[] = [];

  constructor(private readonly answers: Record<string, Answer>) {
    vi.stubGlobal('fetch', (address: string, how: { method: string; body?: string; signal?: AbortSignal }) =>
      this.fetch(address, how),
    );
  }

  private async fetch(
    address: string,
    { method, body, signal }: { method: string; body?: string; signal?: AbortSignal },
  ) {
    const url = new URL(address, 'http://farrier');
    const key = `${method} ${url.pathname}`;
    const asked = {
      key,
      query: Object.fromEntries(url.searchParams),
      body: (body ? JSON.parse(body) : null) as never,
    };
    this.asked.push(asked);
    if (this.slow) await new Promise<void>((resolve) => this.waiting.push(resolve));
    if (signal?.aborted) throw new DOMException('aborted', 'AbortError');
    const answer = this.answers[key];
    try {
      const value = typeof answer === 'function' ? (answer as (a: Asked) => unknown)(asked) : answer;
      if (value instanceof Uint8Array) return new Response(value as Uint8Array<ArrayBuffer>);
      return new Response(JSON.stringify(value ?? null));
    } catch (fault) {
      return new Response(JSON.stringify({ error: { what: (fault as Error).message } }), { status: 400 });
    }
  }

  /** Answers the oldest question that waits. */
  answer(): void {
    this.waiting.shift()?.();
  }
  /** Questions of one address, in their order. */
  of = (key: string): Asked[] => this.asked.filter((a) => a.key === key);
}

/** Lets what was begun go on to its end. */
export const settled = async (): Promise<void> => {
  for (let k = 0; k < 20; k++) await Promise.resolve();
  await new Promise((resolve) => setTimeout(resolve, 0));
  for (let k = 0; k < 20; k++) await Promise.resolve();
};
