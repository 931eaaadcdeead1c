import { resolve } from '$app/paths';
import type { BodyIn } from '$contract/api';
import type { OutgoingState } from '$contract/outgoing';
import { call, faultText, type FaultText } from '../api';

/** How often it is asked how far a file is, ms. */
const ASK_MS = 150;
/** How long it is said that a file was saved, ms. */
const SAID_MS = 2500;

/** A file that is being made, as the page shows it. */
export interface Going {
  key: number;
  /** null before it has begun. */
  id: string | null;
  name: string;
  share: number;
  state: 'waiting' | 'making' | 'saved' | 'failed';
  says: string[];
  fault: FaultText | null;
}

/** Files that are made one after the other and saved when they are ready; they go on while other pages are looked at. */
export class OutgoingFiles {
  all = $state<Going[]>([]);
  private keys = 0;
  private line: Promise<unknown> = Promise.resolve();

  /** Makes a file and saves it; what goes wrong is said beside its name. @param ask what is wanted, or what begins it
   *  @returns when it is saved, or is not wanted any more */
  make(ask: BodyIn<'POST /api/outgoing'> | (() => Promise<OutgoingState>), name: string): Promise<void> {
    const begin = typeof ask === 'function' ? ask : () => call('POST /api/outgoing', { body: ask });
    const key = ++this.keys;
    this.all.push({ key, id: null, name, share: 0, state: 'waiting', says: [], fault: null });
    const going = this.all.at(-1)!;
    const made = this.line.then(() => this.run(begin, going));
    this.line = made;
    return made;
  }
  stop(key: number): void {
    const going = this.all.find((g) => g.key === key);
    this.all = this.all.filter((g) => g.key !== key);
    if (going?.id && going.state === 'making')
      void call('DELETE /api/outgoing/[id]', { params: { id: going.id } }).catch(() => undefined);
  }
  private wanted = (going: Going) => this.all.some((g) => g.key === going.key);

  private async run(begin: () => Promise<OutgoingState>, going: Going): Promise<void> {
    if (!this.wanted(going)) return;
    try {
      let state = await begin();
      going.id = state.id;
      // Stopped before it had a number.
      if (!this.wanted(going))
        return void (await call('DELETE /api/outgoing/[id]', { params: { id: state.id } }));
      Object.assign(going, { name: state.name, state: 'making' });
      while (state.state === 'making') {
        await new Promise((done) => setTimeout(done, ASK_MS));
        if (!this.wanted(going)) return;
        state = await call('GET /api/outgoing/[id]', { params: { id: state.id } });
        going.share = state.share;
      }
      if (state.state === 'failed') return void Object.assign(going, { state: 'failed', fault: state.fault });
      save(resolve(`/api/outgoing/${state.id}/file`));
      Object.assign(going, { name: state.name, state: 'saved', share: 1, says: state.says });
      if (state.says.length === 0) setTimeout(() => this.stop(going.key), SAID_MS);
    } catch (error) {
      Object.assign(going, { state: 'failed', fault: faultText(error) });
    }
  }
}

function save(href: string): void {
  const link = Object.assign(document.createElement('a'), { href, download: '' });
  document.body.append(link);
  link.click();
  link.remove();
}
