/** The live feed: length-prefixed binary frames in one response. Header: u32 length of all, u16 kind, u16 spare, f64 sequence, all little-endian. */
export const FRAME_KINDS = { hello: 1, buckets: 2, values: 3, status: 4, note: 5 } as const;
export const HEADER_BYTES = 16;
const MAX_FRAME_BYTES = 64 * 1024 * 1024;

/** What the feed carries: told first, and again when the set-up changes. */
export interface Hello {
  channelIds: string[];
  /** Channels whose buckets are sent, in this order. */
  strips: string[];
  bucketMs: number;
}

/** Extremes of the strips: for each bucket, for each strip, minimum and maximum. */
export interface Buckets {
  /** End of the last bucket, ms UTC. */
  endMs: number;
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

export function encodeBuckets(sequence: number, { endMs, strips, data }: Buckets): Uint8Array<ArrayBuffer> {
  const { out, view } = frame(FRAME_KINDS.buckets, sequence, 16 + data.byteLength);
  view.setFloat64(16, endMs, true);
  view.setUint32(24, strips, true);
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
