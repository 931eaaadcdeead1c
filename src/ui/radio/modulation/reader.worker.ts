import { readModulation } from '$core/modulation/read';
import type { ReadAnswer, ReadAsk } from './reader';

self.onmessage = ({ data }: MessageEvent<ReadAsk>) => {
  const read = readModulation(data.iq, data.sampleRateHz, data.wish);
  self.postMessage({ id: data.id, read } satisfies ReadAnswer);
};
