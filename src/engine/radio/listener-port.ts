import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { ReceiverState } from '$contract/radio';
import type { ToThread } from './listen-thread';
import { Ears, type EarSink, type EarWish } from './ears';
import type { NumbersTold } from './number-reads';
import type { ListenSink } from '../units/driver';
import type { GatherNow } from './gathers';
import type { IqBlock } from './source';

/** Samples that may wait for the thread, s: what comes on top is not listened to, and said. */
const WAITING_S = 0.4;

/** What listens to a receiver: a thread of its own, so that measuring is not held up; from sources and in scripts in this one. */
export class ListenerPort {
  private wish: EarWish = { band: null, catching: null };
  private gathering: GatherNow | null = null;
  private inline: Ears | null = null;
  private worker: Worker | null = null;
  private waiting = 0;
  private missed = 0;
  private closed = false;

  /** @param numbers told what is read for channels */
  constructor(
    public told: ListenSink,
    private readonly numbers: (read: NumbersTold) => void = () => undefined,
  ) {
    void this.start();
  }

  private readonly hear: EarSink = (heard) =>
    'numbers' in heard ? this.numbers(heard.numbers) : this.told(heard);

  private async start(): Promise<void> {
    const { entry } = await import('./listen-thread');
    if (this.closed) return;
    if (entry.endsWith('.ts') || process.env.FARRIER_STUDIES === 'inline') {
      this.inline = new Ears(this.hear);
      this.inline.want(this.wish);
      this.inline.gather(this.gathering);
      return;
    }
    const worker = new Worker(fileURLToPath(entry), { workerData: 'listen' });
    worker.on('message', (said: { heard: Parameters<EarSink>[0] } | { done: number }) => {
      if ('done' in said) this.waiting -= said.done;
      else this.hear(said.heard);
    });
    worker.on('error', (error) => {
      this.worker = null;
      this.told({ says: `Listening stopped: ${error.message}.`, next: 'Listen again.' });
    });
    this.worker = worker;
    this.send({ want: this.wish });
    this.send({ gather: this.gathering });
  }

  private send(message: ToThread, transfer: ArrayBuffer[] = []): void {
    this.worker?.postMessage(message, transfer);
  }

  want(wish: EarWish): void {
    this.wish = wish;
    this.inline?.want(wish);
    this.send({ want: wish });
  }

  gather(now: GatherNow | null): void {
    this.gathering = now;
    this.inline?.gather(now);
    this.send({ gather: now });
  }

  /** @param timeMs of the block’s end */
  push(block: IqBlock, receiver: ReceiverState, timeMs: number): void {
    if (this.inline) return this.inline.push(block, receiver, timeMs);
    if (!this.worker) return;
    const count = block.iq.length / 2;
    if (this.waiting > 0 && this.waiting + count > WAITING_S * receiver.sampleRateHz) {
      this.missed += count;
      return;
    }
    if (this.missed) this.send({ missed: this.missed });
    this.missed = 0;
    this.waiting += count;
    // The thread gets a copy: the samples themselves go on to what records them.
    const iq = block.iq.slice();
    this.send({ block: { ...block, iq }, receiver, timeMs }, [iq.buffer]);
  }

  close(): void {
    this.closed = true;
    void this.worker?.terminate();
    this.worker = this.inline = null;
  }
}
