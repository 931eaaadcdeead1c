import type { ModulationRead, ModulationWish, Unread } from '$core/modulation/read';

/** What the worker is asked, and what it answers. */
export interface ReadAsk {
  id: number;
  iq: Float32Array<ArrayBuffer>;
  sampleRateHz: number;
  wish: ModulationWish;
}
export interface ReadAnswer {
  id: number;
  read: ModulationRead | Unread;
}

/** Reads captures in a worker of the browser, one at a time: those that come while it reads are passed over but the last. */
export class Reader {
  private readonly worker = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' });
  private busy = false;
  private waiting: Omit<ReadAsk, 'id'> | null = null;
  private id = 0;

  constructor(told: (read: ModulationRead | Unread) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<ReadAnswer>) => {
      this.busy = false;
      // What was asked otherwise meanwhile is none of this.
      if (data.id === this.id) told(data.read);
      const next = this.waiting;
      this.waiting = null;
      if (next) this.read(next);
    };
    this.worker.onerror = (e) => {
      this.busy = false;
      told({ fault: `The capture could not be read: ${e.message}` });
    };
  }
  read(ask: Omit<ReadAsk, 'id'>): void {
    if (this.busy) {
      this.waiting = ask;
      return;
    }
    this.busy = true;
    // A copy goes: the capture stays with the page, to be read otherwise.
    const iq = ask.iq.slice();
    this.worker.postMessage({ ...ask, iq, id: this.id } satisfies ReadAsk, [iq.buffer]);
  }
  /** What is being read is of another wish. */
  forget(): void {
    this.id++;
    this.waiting = null;
  }
  close(): void {
    this.worker.terminate();
  }
}
