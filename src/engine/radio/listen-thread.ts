import { isMainThread, parentPort, workerData } from 'node:worker_threads';
import type { ReceiverState } from '$contract/radio';
import { Ears, type EarWish } from './ears';
import type { GatherNow } from './gathers';
import type { IqBlock } from './source';

/** Where this module lives: the file that a listening thread loads. Importing it on the main thread does nothing else. */
export const entry = import.meta.url;

export type ToThread =
  | { want: EarWish }
  | { gather: GatherNow | null }
  | { block: IqBlock; receiver: ReceiverState; timeMs: number }
  | { missed: number };

if (!isMainThread && workerData === 'listen' && parentPort) {
  const port = parentPort;
  const listening = new Ears((heard) => port.postMessage({ heard }));
  port.on('message', (said: ToThread) => {
    if ('want' in said) listening.want(said.want);
    else if ('gather' in said) listening.gather(said.gather);
    else if ('missed' in said) listening.missed(said.missed);
    else {
      listening.push(said.block, said.receiver, said.timeMs);
      port.postMessage({ done: said.block.iq.length / 2 });
    }
  });
}
