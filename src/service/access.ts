import { createHash, createHmac, randomBytes, scryptSync, timingSafeEqual } from 'node:crypto';
import { FarrierError } from '$core/errors';

const TRIES = 5;
const WINDOW_MS = 60_000;
const SESSION_MS = 7 * 24 * 3600 * 1000;
const MIN_PHRASE = 10;

const LOOPBACK = /^(127(\.\d+){3}|::1|\[::1\]|localhost)$/;

/** Who may come in: on a loopback address everyone at this computer, elsewhere whoever knows the access phrase. */
export class Access {
  private readonly salt = randomBytes(16);
  private readonly hash: Buffer | null;
  private readonly key = randomBytes(32);
  private readonly failures = new Map<string, number[]>();

  /** @throws Error when the address is open to others and no phrase (of 10 characters or more) is set */
  constructor(
    host: string,
    phrase: string | undefined,
    private readonly now: () => number = Date.now,
  ) {
    if (!LOOPBACK.test(host) && (phrase ?? '').trim().length < MIN_PHRASE)
      throw new Error(
        `Farrier listens on ${host}, which others can reach: set FARRIER_PHRASE to an access phrase of ${MIN_PHRASE} characters or more, or HOST to 127.0.0.1.`,
      );
    if (phrase !== undefined && phrase.trim() === '' && phrase !== '')
      throw new Error('FARRIER_PHRASE holds nothing but blanks: set a phrase, or leave it out.');
    this.hash = phrase ? scryptSync(phrase, this.salt, 32) : null;
  }

  get needed(): boolean {
    return this.hash !== null;
  }

  /** Checks a phrase and gives a session token. @throws `not_allowed` for a wrong one, and for any after five wrong ones in a minute */
  enter(phrase: string, from: string): string {
    const recent = (this.failures.get(from) ?? []).filter((t) => t > this.now() - WINDOW_MS);
    if (recent.length >= TRIES)
      throw refused('Too many wrong phrases came from this address.', 'Wait a minute, then try again.');
    if (!this.hash || !timingSafeEqual(scryptSync(phrase.slice(0, 500), this.salt, 32), this.hash)) {
      this.failures.set(from, [...recent, this.now()]);
      throw refused('This is not the access phrase.', 'Ask whoever started Farrier for it.');
    }
    this.failures.delete(from);
    const until = String(this.now() + SESSION_MS);
    return `${until}.${this.sign(until)}`;
  }

  /** Whether a session token is ours and still good. */
  knows(token: string | undefined): boolean {
    const [until, signature] = (token ?? '').split('.');
    if (!until || !signature || !(Number(until) > this.now())) return false;
    return this.signed(until, signature);
  }

  /** A secret for a browser to keep, and the number by which others know it. */
  newViewer(): { cookie: string; id: string } {
    const secret = randomBytes(18).toString('base64url');
    return { cookie: `${secret}.${this.sign(`viewer ${secret}`)}`, id: publicId(secret) };
  }

  /** The number of the browser that keeps a secret; null for a secret that is not ours. */
  viewerOf(cookie: string | undefined): string | null {
    const [secret, signature] = (cookie ?? '').split('.');
    return secret && signature && this.signed(`viewer ${secret}`, signature) ? publicId(secret) : null;
  }

  private signed(text: string, signature: string): boolean {
    const [expected, got] = [Buffer.from(this.sign(text)), Buffer.from(signature)];
    return expected.length === got.length && timingSafeEqual(expected, got);
  }

  private sign = (text: string) => createHmac('sha256', this.key).update(text).digest('base64url');
}

/** What a browser is known by: nothing of its secret can be found from it. */
const publicId = (secret: string) => createHash('sha256').update(secret).digest('base64url').slice(0, 22);

const refused = (what: string, next: string) =>
  new FarrierError('not_allowed', { what, where: 'access phrase', next });

/** Whether a request was sent to this computer by one of its own names: a foreign name that points here is a page's trick to read
 *  what only this computer may (DNS rebinding). */
export const ownName = (host: string | null) => LOOPBACK.test((host ?? '').replace(/:\d+$/, ''));

/** Whether a request that changes something comes from our own pages: its origin is the host it was sent to. */
export function sameOrigin(origin: string | null, host: string | null): boolean {
  if (!origin) return true; // not a browser's cross-site request
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}
