import type { SampledHead } from '$core/samples/sampled';

/** The live feed: length-prefixed binary frames in one response. Header: u32 length of all, u16 kind, u16 spare, f64 sequence, all little-endian. */
export const FRAME_KINDS = {
  hello: 1,
  buckets: 2,
  values: 3,
  status: 4,
  note: 5,
  alarms: 6,
  people: 7,
  wave: 8,
  extremes: 9,
  board: 10,
  look: 11,
  past: 12,
  /** Of a receiver: a picture of its band, its waterfall so far, what cannot be heard, and that it is listened to otherwise. */
  heard: 13,
  heardPast: 14,
  heardFault: 15,
  radio: 16,
  caught: 17,
  /** A bench of radio stands otherwise: its name. */
  bench: 18,
  /** Of a receiver: a capture whose modulation is read. */
  capture: 19,
} as const;
/** Benches of radio that stand for themselves. */
export type Bench = 'noise' | 'emissions' | 'modulation';
const HEADER_BYTES = 16;
const MAX_FRAME_BYTES = 64 * 1024 * 1024;

/** What a stream is about: told first, and again when the set-up changes. */
export interface Hello {
  /** Names the stream, for whoever wants to see other things on it. */
  id: string;
  channelIds: string[];
  bucketMs: number;
}

/** What one page looks at. */
export interface Look {
  /** Strips by their keys (see stripKey). */
  strips: string[];
  /** Channels of which every sample is wanted. */
  waves: string[];
  /** Receiver whose band is looked at, if any. */
  radio?: string;
  /** Receiver of which pictures over time are looked at, if any. */
  catches?: string;
  /** Receiver whose modulation is read, if any. */
  captures?: string;
}
/** What the frames that follow carry, in this order; the past of those in `anew` comes next. */
export interface LookTold extends Look {
  anew: string[];
}
/** Most strips, and most channels of which every sample is sent, on one stream. */
export const LOOK_MOST = 64;

/** Widths of the buckets that are kept, ms, and how far back each goes: ten minutes, three hours, three days. */
export const RESOLUTIONS = [
  { ms: 50, count: 12_000 },
  { ms: 1000, count: 10_800 },
  { ms: 30_000, count: 8640 },
] as const;

/** What a page asks for to draw a strip of so many seconds: “id” (50 ms), “id@1000”, “id@30000”, or “id~rms”. */
export const stripKey = (id: string, spanS: number, what: 'extremes' | 'rms' = 'extremes') => {
  if (what === 'rms') return `${id}~rms`;
  const { ms } = RESOLUTIONS.find((r) => r.ms * r.count >= spanS * 1000) ?? RESOLUTIONS[2];
  return ms === RESOLUTIONS[0].ms ? id : `${id}@${ms}`;
};
/** @returns the channel, the bucket's width, and whether its rms is meant instead of its extremes */
export function parseStripKey(key: string): { id: string; ms: number; rms: boolean } {
  const [, id, tail] = /^(.*?)((?:@\d+|~rms)?)$/.exec(key)!;
  const ms = tail.startsWith('@') ? Number(tail.slice(1)) : RESOLUTIONS[0].ms;
  return { id, ms: RESOLUTIONS.some((r) => r.ms === ms) ? ms : RESOLUTIONS[0].ms, rms: tail === '~rms' };
}

/** Extremes of the strips: for each bucket, for each strip, minimum and maximum. */
export interface Buckets {
  /** End of the last bucket, ms UTC. */
  endMs: number;
  /** Width of one, ms; only strips of this width are in data. */
  bucketMs: number;
  strips: number;
  data: Float32Array;
}

export interface Values {
  timeMs: number;
  last: Float32Array;
  raw: Float32Array;
  state: Uint8Array;
}

export interface LiveNote {
  kind: string;
  says: string;
  atMs: number;
  by: string;
}

function frame(
  kind: number,
  sequence: number,
  bytes: number,
): { out: Uint8Array<ArrayBuffer>; view: DataView } {
  const out = new Uint8Array(HEADER_BYTES + bytes);
  const view = new DataView(out.buffer);
  view.setUint32(0, out.length, true);
  view.setUint16(4, kind, true);
  view.setFloat64(8, sequence, true);
  return { out, view };
}

export function encodeJson(kind: number, value: unknown): Uint8Array<ArrayBuffer> {
  const bytes = new TextEncoder().encode(JSON.stringify(value));
  const { out } = frame(kind, 0, bytes.length);
  out.set(bytes, HEADER_BYTES);
  return out;
}

/** Bytes as they are. */
export function encodeBytes(kind: number, bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const { out } = frame(kind, 0, bytes.length);
  out.set(bytes, HEADER_BYTES);
  return out;
}

export type BucketKind = typeof FRAME_KINDS.buckets | typeof FRAME_KINDS.past;
/** @param kind the newest bucket of all strips, or all that is kept of some */
export function encodeBuckets(
  kind: BucketKind,
  { endMs, bucketMs, strips, data }: Buckets,
): Uint8Array<ArrayBuffer> {
  const { out, view } = frame(kind, 0, 16 + data.byteLength);
  view.setFloat64(16, endMs, true);
  view.setUint32(24, strips, true);
  view.setUint32(28, bucketMs, true);
  out.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), 32);
  return out;
}

export function encodeValues(
  sequence: number,
  { timeMs, last, raw, state }: Values,
): Uint8Array<ArrayBuffer> {
  const n = last.length;
  const { out, view } = frame(FRAME_KINDS.values, sequence, 8 + n * 9);
  view.setFloat64(16, timeMs, true);
  out.set(new Uint8Array(last.buffer, last.byteOffset, n * 4), 24);
  out.set(new Uint8Array(raw.buffer, raw.byteOffset, n * 4), 24 + n * 4);
  out.set(state, 24 + n * 8);
  return out;
}

export interface RawFrame {
  kind: number;
  sequence: number;
  payload: Uint8Array;
}

/** Joins arriving pieces into whole frames. @throws Error for a length that cannot be: the stream is not ours or out of step */
export class FrameReader {
  private held = new Uint8Array(0);

  push(chunk: Uint8Array): RawFrame[] {
    const joined = new Uint8Array(this.held.length + chunk.length);
    joined.set(this.held);
    joined.set(chunk, this.held.length);
    const view = new DataView(joined.buffer);
    const frames: RawFrame[] = [];
    let at = 0;
    while (joined.length - at >= HEADER_BYTES) {
      const length = view.getUint32(at, true);
      if (length < HEADER_BYTES || length > MAX_FRAME_BYTES) throw new Error(`live frame of ${length} bytes`);
      if (joined.length - at < length) break;
      frames.push({
        kind: view.getUint16(at + 4, true),
        sequence: view.getFloat64(at + 8, true),
        payload: joined.slice(at + HEADER_BYTES, at + length),
      });
      at += length;
    }
    this.held = joined.slice(at);
    return frames;
  }
}

export const decodeJson = <T>(payload: Uint8Array): T => JSON.parse(new TextDecoder().decode(payload)) as T;

export function decodeBuckets(payload: Uint8Array): Buckets {
  const view = new DataView(payload.buffer, payload.byteOffset);
  return {
    endMs: view.getFloat64(0, true),
    strips: view.getUint32(8, true),
    bucketMs: view.getUint32(12, true),
    data: new Float32Array(payload.slice(16).buffer),
  };
}

export function decodeValues(payload: Uint8Array): Values {
  const n = (payload.length - 8) / 9;
  return {
    timeMs: new DataView(payload.buffer, payload.byteOffset).getFloat64(0, true),
    last: new Float32Array(payload.slice(8, 8 + n * 4).buffer),
    raw: new Float32Array(payload.slice(8 + n * 4, 8 + n * 8).buffer),
    state: payload.slice(8 + n * 8),
  };
}

/** Every sample of some channels, as a step of the engine brought them. */
export interface Wave extends Pick<SampledHead, 'rate' | 'width'> {
  channelId: string;
  /** Time of the first sample, ms UTC. */
  firstMs: number;
  /** `width` numbers a sample. */
  values: Float32Array;
}
const WAVE_HEAD_BYTES = 32;

export function encodeWave(place: number, { rate, width, firstMs, values }: Wave): Uint8Array<ArrayBuffer> {
  const { out, view } = frame(FRAME_KINDS.wave, place, WAVE_HEAD_BYTES + values.byteLength);
  view.setFloat64(16, rate.num, true);
  view.setFloat64(24, rate.den, true);
  view.setFloat64(32, firstMs, true);
  view.setUint32(40, width, true);
  out.set(
    new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
    HEADER_BYTES + WAVE_HEAD_BYTES,
  );
  return out;
}
/** @returns the wave without its channel: the frame's sequence is its place among those asked for */
export function decodeWave(payload: Uint8Array): Omit<Wave, 'channelId'> {
  const view = new DataView(payload.buffer, payload.byteOffset);
  return {
    rate: { num: view.getFloat64(0, true), den: view.getFloat64(8, true) },
    firstMs: view.getFloat64(16, true),
    width: view.getUint32(24, true) === 2 ? 2 : 1,
    values: new Float32Array(payload.slice(WAVE_HEAD_BYTES).buffer),
  };
}

/** Lowest, highest and mean of every channel since the take's start or a reset. */
export interface Extremes {
  sinceMs: number;
  min: Float32Array;
  max: Float32Array;
  mean: Float32Array;
}
export function encodeExtremes({ sinceMs, min, max, mean }: Extremes): Uint8Array<ArrayBuffer> {
  const n = min.length;
  const { out, view } = frame(FRAME_KINDS.extremes, 0, 8 + n * 12);
  view.setFloat64(16, sinceMs, true);
  [min, max, mean].forEach((a, k) => out.set(new Uint8Array(a.buffer, a.byteOffset, n * 4), 24 + k * n * 4));
  return out;
}
export function decodeExtremes(payload: Uint8Array): Extremes {
  const n = (payload.length - 8) / 12;
  const part = (k: number) => new Float32Array(payload.slice(8 + k * n * 4, 8 + (k + 1) * n * 4).buffer);
  return {
    sinceMs: new DataView(payload.buffer, payload.byteOffset).getFloat64(0, true),
    min: part(0),
    max: part(1),
    mean: part(2),
  };
}
