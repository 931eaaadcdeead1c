import { boardChange, withChange, type Board, type BoardChange, type View } from '$contract/board';

const SETTLE_MS = 250;

/** Sends a change. @param leaving whether the page is being left: then it has to go on its way at once */
export type SendChange = (change: BoardChange, leaving: boolean) => Promise<Board>;

/** A board as it is arranged here: own changes are sent when the hand rests, those of others come in underneath. */
export class BoardDraft {
  views = $state.raw<View[]>([]);
  saved = $state(true);
  /** The views as the server last told them. */
  private base: View[];
  private timer: ReturnType<typeof setTimeout> | undefined;
  private sending = false;

  constructor(
    views: View[],
    private readonly send: SendChange,
    private readonly fault: (error: unknown) => void,
  ) {
    this.base = views;
    this.views = views;
  }

  keep(next: View[]): void {
    this.views = next;
    this.saved = false;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(), SETTLE_MS);
  }

  /** Takes over what the server has; what was changed here and is not there yet stays on top. */
  follow(server: View[]): void {
    const own = boardChange(this.base, this.views);
    this.base = server;
    this.views = own ? withChange(server, own) : server;
  }

  private async save(): Promise<void> {
    if (this.sending) return; // it looks again when its answer is there
    this.sending = true;
    try {
      for (let sent = ''; ;) {
        const change = boardChange(this.base, this.views);
        if (!change || JSON.stringify(change) === sent) break;
        sent = JSON.stringify(change);
        const { views } = await this.send(change, false);
        this.follow(views);
      }
      this.saved = true;
    } catch (error) {
      this.fault(error);
    } finally {
      this.sending = false;
    }
  }

  /** Before the page goes: what is not sent yet goes now. @returns it, for a page that is made before it has arrived */
  leave(): BoardChange | null {
    clearTimeout(this.timer);
    const change = boardChange(this.base, this.views);
    if (change) void this.send(change, true).catch(() => undefined);
    return change;
  }
}
