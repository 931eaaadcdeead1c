import { FarrierError } from '$core/errors';

const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 10_000;

/** A connection that is kept up: opened again after it was lost, with growing pauses. */
export class Link {
  private wait = FIRST_WAIT_MS;
  private timer: NodeJS.Timeout | null = null;
  private closed = false;
  connected = false;
  why = 'It is being connected.';

  /** @param open begins to connect; it has to call up() or down() later */
  constructor(
    private readonly where: string,
    private readonly open: () => void,
  ) {
    // Not within the constructor of whoever owns the link: it is not whole yet.
    this.timer = setTimeout(() => this.begin(), 0);
  }

  private begin(): void {
    if (this.closed) return;
    try {
      this.open();
    } catch (error) {
      this.down((error as Error).message);
    }
  }

  up(): void {
    this.connected = true;
    this.why = '';
    this.wait = FIRST_WAIT_MS;
  }

  down(why: string): void {
    this.connected = false;
    this.why = why;
    if (this.closed) return;
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => this.begin(), this.wait);
    this.wait = Math.min(LONGEST_WAIT_MS, this.wait * 2);
  }

  /** @throws `unavailable` while there is no connection */
  check(): void {
    if (this.connected) return;
    throw new FarrierError('unavailable', {
      what: 'It does not answer.',
      where: this.where,
      why: this.why,
      next: 'Look at the cable and the address; it is tried again by itself.',
    });
  }

  close(): void {
    this.closed = true;
    this.connected = false;
    if (this.timer) clearTimeout(this.timer);
  }
}
