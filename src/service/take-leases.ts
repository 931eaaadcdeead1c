import { LRUCache } from 'lru-cache';
import { TakeReader, type Meaning } from '$store/take/reader';

interface Held {
  reader: TakeReader;
  leases: number;
  /** Nobody gets it any more; it closes with its last lease. */
  leaving: boolean;
}
/** A reader that is not closed before it is given back. */
export interface Lease {
  reader: TakeReader;
  /** Gives it back; once is enough, more do no harm. */
  release(): void;
}
const MOST_OPEN = 8;

/** Readers of takes, shared and kept open for the next who asks. One that is on lease is never closed under its reader, however many others
 *  are opened meanwhile. */
export class TakeLeases {
  private readonly open = new LRUCache<string, Held>({
    max: MOST_OPEN,
    dispose: (held) => {
      held.leaving = true;
      this.closeIfFree(held);
    },
  });
  /** Readers that are open now. */
  count = 0;

  /** @param path of the file @throws `not_found`, `damaged` */
  lease(path: string, meaning: Meaning = 'as corrected'): Lease {
    const key = `${meaning} ${path}`;
    let held = this.open.get(key);
    // What is known of a take that is being recorded is old at once.
    if (!held || held.reader.head.state === 'recording') {
      held = { reader: new TakeReader(path, meaning), leases: 0, leaving: false };
      this.count++;
      held.leases++; // it is ours before the cache may let it go
      this.open.set(key, held);
    } else held.leases++;
    const own = held;
    let given = false;
    return {
      reader: own.reader,
      release: () => {
        if (given) return;
        given = true;
        own.leases--;
        this.closeIfFree(own);
      },
    };
  }

  /** A reader for this turn of the event loop: to be used at once, never kept. @throws `not_found`, `damaged` */
  now(path: string, meaning: Meaning = 'as corrected'): TakeReader {
    const { reader, release } = this.lease(path, meaning);
    setImmediate(release);
    return reader;
  }

  /** The file was given another meaning: whoever asks from now on reads it anew. */
  forget(path: string): void {
    for (const meaning of ['as corrected', 'as recorded'] as const) this.open.delete(`${meaning} ${path}`);
  }

  closeAll(): void {
    this.open.clear();
  }

  private closeIfFree(held: Held): void {
    if (!held.leaving || held.leases > 0) return;
    held.reader.close();
    this.count--;
  }
}
