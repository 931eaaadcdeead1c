import { setTimeout as wait } from 'node:timers/promises';
import { FarrierError, asFarrierError } from '$core/errors';
import type { LinkView } from '$contract/station';
import { openLink } from '../lines';
import type { FieldLink } from '../link';

/** Tries before one gives up for now. */
const TRIES = 3;
/** A line that nobody asked for this long is let go, ms. */
const IDLE_MS = 15_000;

/** The line to one station: opened when something is to be done, one thing at a time, tried again after a pause, and let go when nobody needs it. What it is doing
 *  can be seen at any time. */
export class Contact {
  private link: FieldLink | null = null;
  private turn: Promise<unknown> = Promise.resolve();
  private waiting = 0;
  private neededAt = 0;
  private over = false;
  view: LinkView = { state: 'away', says: '', tries: 0, sinceMs: null };

  /** @param met whether it is the station that is meant, before anything else is asked @throws from `met` */
  constructor(
    private readonly how: () => { address: string; pauseS: number },
    private readonly met: (link: FieldLink) => Promise<void>,
  ) {}

  get busy(): boolean {
    return this.waiting > 0;
  }
  get open(): boolean {
    return this.link !== null && !this.link.ended;
  }

  /** Does something over the line after what came before. A line that is cut is told by what is thrown; the next one is a new one. @throws `unavailable`, what `act` throws */
  work<T>(act: (link: FieldLink) => Promise<T>): Promise<T> {
    this.waiting++;
    const turn = this.turn.then(async () => {
      const link = await this.reach();
      try {
        return await act(link);
      } finally {
        this.neededAt = Date.now();
        if (link.ended) this.fell('The line was cut.');
      }
    });
    const ended = () => void this.waiting--;
    this.turn = turn.then(ended, ended);
    return turn;
  }
  /** Somebody goes on looking at it. */
  needed(): void {
    this.neededAt = Date.now();
  }
  /** A line that the station opened itself. */
  async took(link: FieldLink): Promise<void> {
    if (this.open) return link.close();
    this.link = link;
    this.neededAt = Date.now();
    this.view = { state: 'there', says: 'it called in', tries: 0, sinceMs: Date.now() };
  }
  /** Lets the line go when nobody has needed it for a while. */
  rest(): void {
    if (this.link && !this.busy && Date.now() - this.neededAt > IDLE_MS) this.hangUp();
  }
  hangUp(): void {
    this.link?.close();
    this.link = null;
    this.view = { state: 'away', says: '', tries: 0, sinceMs: null };
  }
  end(): void {
    this.over = true;
    this.hangUp();
  }

  private fell(says: string): void {
    this.link?.close();
    this.link = null;
    this.view = { state: 'silent', says, tries: this.view.tries, sinceMs: Date.now() };
  }
  private async reach(): Promise<FieldLink> {
    if (this.link && !this.link.ended) return this.link;
    this.link = null;
    const { address, pauseS } = this.how();
    if (!address) {
      this.view = { state: 'away', says: 'it is reached when it calls in', tries: 0, sinceMs: null };
      throw new FarrierError('unavailable', { what: 'It has no address.', next: 'Wait until it calls in, or give its address.' }); // prettier-ignore
    }
    const sinceMs = Date.now();
    for (let tries = 1; ; tries++) {
      this.view = { state: 'calling', says: address, tries, sinceMs };
      let link: FieldLink | null = null;
      try {
        link = await openLink(address);
        await this.met(link);
        this.link = link;
        this.view = { state: 'there', says: address, tries, sinceMs: Date.now() };
        return link;
      } catch (error) {
        link?.close();
        const { text, code } = asFarrierError(error, address);
        if (code !== 'unavailable' || tries >= TRIES || this.over) {
          this.view = { state: 'silent', says: [text.what, text.why].filter(Boolean).join(' '), tries, sinceMs }; // prettier-ignore
          throw error;
        }
        this.view = { state: 'calling', says: `${address}: ${text.why ?? text.what}, again in ${pauseS} s`, tries, sinceMs }; // prettier-ignore
        await wait(pauseS * 1000, undefined, { ref: false });
      }
    }
  }
}
