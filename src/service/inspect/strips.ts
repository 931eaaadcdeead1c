import type { StripPicture } from '$contract/api/inspect';
import { keepStrip, keptStrips } from '$store/takes';
import type { App } from '../app';
import { openTake } from '../takes';

/** Columns of a small picture. */
const COLUMNS = 48;

/** Small pictures of a channel of some takes: made once from the envelopes, then kept. A take without the channel, or that cannot be read,
 *  has none. */
export function stripsOf(app: App, takes: string[], channel: string): Record<string, StripPicture> {
  const kept = keptStrips(app.db, takes, channel);
  return Object.fromEntries(
    takes.map((take) => {
      const bytes = kept.get(take) ?? drawn(app, take, channel);
      return [take, bytes && bytes.length ? pictureOf(bytes) : null];
    }),
  );
}

function drawn(app: App, take: string, channel: string): Buffer | null {
  try {
    const reader = openTake(app, take);
    const signal = reader.signals.find((s) => s.channelId && s.name === channel);
    const bytes = signal && signal.length > 0 ? stripBytes(reader.window(signal.id, 0, signal.length, COLUMNS)) : Buffer.alloc(0); // prettier-ignore
    keepStrip(app.db, take, channel, bytes);
    return bytes;
  } catch {
    return null;
  }
}

/** Minima, then maxima: 1 to 255 over the range of the picture, 0 where there is nothing. */
function stripBytes({ min, max }: { min: Float32Array; max: Float32Array }): Buffer {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < min.length; i++) {
    if (min[i] < low) low = min[i];
    if (max[i] > high) high = max[i];
  }
  const step = 254 / (high - low || 1);
  const byte = (v: number) => (v === v ? 1 + Math.round((v - low) * step) : 0);
  return Buffer.from([...min, ...max].map(byte));
}

function pictureOf(bytes: Buffer): StripPicture {
  const half = bytes.length / 2;
  return { min: [...bytes.subarray(0, half)], max: [...bytes.subarray(half)] };
}
