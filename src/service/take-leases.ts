import { LRUCache } from 'lru-cache';
import { TakeReader } from '$store/take/reader';
import type { Meaning } from '$store/take/signals';

interface Held {
  reader: TakeReader;
  leases: number;
  /** Those that last longer than this turn of the event loop. */
  lasting: number;
  /** Nobody gets it any more; it closes with its last lease. */
  leaving: boolean;
}
/** A reader that is not closed before it is given back. */
export interface Lease {
  reader: TakeReader;
  /** Gives it back; once is enough, more do no harm. */
  release(): void;
}
/** As many as are laid over each other, and some more. */
const MOST_OPEN = 64;

/** Readers of takes, shared and kept open for the next who asks. One that is on lease is never closed under its reader, however many others
 *  are opened meanwhile. */
export class TakeLeases {
  private readonly open: LRUCache<string, Held>;
  /** Readers that are open now. */
  count = 0;

  /** @param most readers that are kept open for the next who asks */
  constructor(most = MOST_OPEN) {
    this.open = new LRUCache<string, Held>({
      max: most,
      dispose: (held) => {
        held.leaving = true;
        this.closeIfFree(held);
      },
    });
  }

  /** @param path of the file @throws `not_found`, `damaged` */
  lease(path: string, meaning: Meaning = 'as corrected'): Lease {
    return this.lend(path, meaning, 1);
  }

  private lend(path: string, meaning: Meaning, lasting: 0 | 1): Lease {
    const key = `${meaning} ${path}`;
    let held = this.open.get(key);
    // What is known of a take that is being recorded is old at once.
    if (!held || held.reader.head.state === 'recording') {
      held = { reader: new TakeReader(path, meaning), leases: 0, lasting: 0, leaving: false };
      this.count++;
      held.leases++; // it is ours before the cache may let it go
      this.open.set(key, held);
    } else held.leases++;
    const own = held;
    own.lasting += lasting;
    let given = false;
    return {
      reader: own.reader,
      release: () => {
        if (given) return;
        given = true;
        own.leases--;
        own.lasting -= lasting;
        this.closeIfFree(own);
      },
    };
  }

  /** A reader for this turn of the event loop: to be used at once, never kept. @throws `not_found`, `damaged` */
  now(path: string, meaning: Meaning = 'as corrected'): TakeReader {
    const { reader, release } = this.lend(path, meaning, 0);
    setImmediate(release);
    return reader;
  }

  /** The file was given another meaning: whoever asks from now on reads it anew. */
  forget(path: string): void {
    for (const meaning of ['as corrected', 'as recorded'] as const) this.open.delete(`${meaning} ${path}`);
  }

  /** Whether somebody goes on reading the file. */
  onLease = (path: string): boolean =>
    (['as corrected', 'as recorded'] as const).some(
      (meaning) => (this.open.peek(`${meaning} ${path}`)?.lasting ?? 0) > 0,
    );

  closeAll(): void {
    this.open.clear();
  }

  private closeIfFree(held: Held): void {
    if (!held.leaving || held.leases > 0) return;
    held.reader.close();
    this.count--;
  }
}
