import { randomBytes } from 'node:crypto';
import { FarrierError, badInput } from '$core/errors';
import { nameText } from '$contract/name-text';
import type { People, Viewer } from '$contract/people';

/** One whose last page was closed this long ago has gone: a page that is opened anew has not. */
const GONE_MS = 30_000;

/** Who looks on and who holds the controls. One browser changes things at a time; others ask, and look on. */
export class Controls {
  private holder: Viewer | null = null;
  private asks: Viewer[] = [];
  private readonly present = new Map<string, { viewer: Viewer; watches: boolean; streams: number }>();
  private readonly links = new Map<string, string>();

  /** When the holder's last page was closed; null while one is open. */
  private leftMs: number | null = null;

  /** @param changed called when who looks on, holds or asks is another
   *  @param tookOver told when somebody took the controls from one who had gone */
  constructor(
    private readonly changed: () => void = () => undefined,
    private readonly tookOver: (says: string, by: string) => void = () => undefined,
    private readonly now: () => number = Date.now,
  ) {}

  /** A browser opened a live stream. @returns what to call when the stream ends */
  enter(viewer: Viewer, watches: boolean): () => void {
    const known = this.present.get(viewer.id);
    this.present.set(viewer.id, { viewer, watches, streams: (known?.streams ?? 0) + 1 });
    if (this.holder?.id === viewer.id) {
      this.holder = viewer;
      this.leftMs = null;
    }
    this.changed();
    return () => {
      const now = this.present.get(viewer.id);
      if (now && --now.streams <= 0) {
        this.present.delete(viewer.id);
        this.asks = this.asks.filter((a) => a.id !== viewer.id);
        if (this.holder?.id === viewer.id) this.leftMs = this.now();
      }
      this.changed();
    };
  }

  get state(): People {
    const all = [...this.present.values()];
    return {
      holder: this.held(),
      asks: this.asks,
      viewers: all.length,
      watchers: all.filter((p) => p.watches).length,
    };
  }

  /** Whoever holds the controls and is still there; one whose last page was closed a while ago holds nothing any more. */
  private held(): Viewer | null {
    if (this.holder && this.leftMs !== null && this.now() - this.leftMs >= GONE_MS) return null;
    return this.holder;
  }

  /** Lets a browser change something; it takes the controls along when nobody holds them. @throws `not_allowed` while another holds them */
  mayChange(viewer: Viewer): void {
    const holder = this.held();
    if (holder?.id === viewer.id) return;
    if (holder)
      throw new FarrierError('not_allowed', {
        what: `${holder.name} holds the controls in another browser.`,
        where: 'controls',
        next: 'Ask for them at the top of the page; one who has gone loses them after half a minute. Notes and acknowledging alarms go without them.',
      });
    if (this.present.has(viewer.id)) this.take(viewer);
  }

  /** Takes the controls that nobody holds; that they were another's who has gone is said. */
  private take(viewer: Viewer): void {
    const gone = this.holder;
    this.hand(viewer);
    if (gone && gone.id !== viewer.id)
      this.tookOver(`${viewer.name} took the controls: ${gone.name}, who held them, was gone.`, viewer.name);
  }

  ask(viewer: Viewer): void {
    if (!this.held()) return this.take(viewer);
    if (this.asks.every((a) => a.id !== viewer.id)) this.asks = [...this.asks, viewer];
    this.changed();
  }

  /** Hands the controls over. @throws `not_allowed` to any but the holder, `bad_input` when the other has gone */
  handOver(from: Viewer, toId: string | null): void {
    this.mayChange(from);
    if (toId === null) {
      this.holder = null;
      return this.changed();
    }
    const to = this.present.get(toId);
    if (!to || to.watches) throw badInput('browser', 'not here', 'Choose one that is looking on now.');
    this.hand(to.viewer);
  }

  private hand(viewer: Viewer): void {
    this.holder = viewer;
    this.leftMs = this.present.has(viewer.id) ? null : this.now();
    this.asks = this.asks.filter((a) => a.id !== viewer.id);
    this.changed();
  }

  /** A browser goes by another name now. */
  rename(viewer: Viewer): void {
    const known = this.present.get(viewer.id);
    if (known) known.viewer = viewer;
    if (this.holder?.id === viewer.id) this.holder = viewer;
    this.changed();
  }

  /** Makes a link that can only watch; it holds until the server stops. @returns its secret part */
  makeLink(by: string): string {
    const token = randomBytes(18).toString('base64url');
    this.links.set(token, by);
    return token;
  }
  isLink = (token: string | undefined) => token !== undefined && this.links.has(token);
}

/** What a browser goes by until somebody gives a name. */
export const NOBODY = 'bench';

/** A person's name as a browser keeps it; '' for none, or one that cannot be shown. */
export function readName(kept: string | undefined): string {
  const read = nameText(40).safeParse(kept ?? '');
  return read.success ? read.data : '';
}
