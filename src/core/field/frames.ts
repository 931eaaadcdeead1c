import { crc16, crc32 } from './checks';

/** What a frame begins with. */
const SYNC = [0xf5, 0x1d] as const;
const FRAME_VERSION = 1;
/** Bytes before and after what is carried. */
const HEAD = 10;
const TAIL = 4;
export const MOST_CARRIED = 61_440;

/** A message on the line: what it is, to which request it belongs, and what it carries. */
export interface Frame {
  kind: number;
  /** Counts up with each request, modulo 65,536; an answer has that of its request. */
  request: number;
  carried: Uint8Array;
}

/** Check of 32 bits over bytes; whoever has a faster one than ours may give it. */
type Check32 = (bytes: Uint8Array) => number;

/** A frame as it goes over the line (docs/field-protocol.md): sync, version, kind, request and length with a check of their own, then what is carried with
 *  its check. @throws RangeError for more than a frame carries */
export function frameBytes({ kind, request, carried }: Frame, check: Check32 = crc32): Uint8Array {
  if (carried.length > MOST_CARRIED) throw new RangeError(`A frame carries ${MOST_CARRIED} bytes at most, not ${carried.length}.`); // prettier-ignore
  const bytes = new Uint8Array(HEAD + carried.length + TAIL);
  const view = new DataView(bytes.buffer);
  bytes.set(SYNC);
  bytes[2] = FRAME_VERSION;
  bytes[3] = kind;
  view.setUint16(4, request, true);
  view.setUint16(6, carried.length, true);
  view.setUint16(8, crc16(bytes.subarray(2, 8)), true);
  bytes.set(carried, HEAD);
  view.setUint32(HEAD + carried.length, check(carried), true);
  return bytes;
}

/** Finds frames in bytes that come in whatever pieces. What is damaged is passed over: the next whole frame is found behind it. */
export class FrameReader {
  /** What came and is not used yet lies from `begin` to `end`. */
  private held = new Uint8Array(2 * MOST_CARRIED);
  private view = new DataView(this.held.buffer);
  private begin = 0;
  private end = 0;
  /** Bytes that belonged to no frame. */
  lost = 0;

  constructor(private readonly check: Check32 = crc32) {}

  private put(piece: Uint8Array): void {
    const used = this.end - this.begin;
    if (this.end + piece.length > this.held.length) {
      const room =
        used + piece.length > this.held.length ? new Uint8Array(2 * (used + piece.length)) : this.held;
      room.set(this.held.subarray(this.begin, this.end));
      if (room !== this.held) this.view = new DataView(room.buffer);
      this.held = room;
      this.begin = 0;
      this.end = used;
    }
    this.held.set(piece, this.end);
    this.end += piece.length;
  }

  /** @returns the frames that are whole now, in their order */
  push(piece: Uint8Array): Frame[] {
    this.put(piece);
    const { held, view, end } = this;
    const frames: Frame[] = [];
    const damaged = () => {
      this.begin++;
      this.lost++;
    };
    while (this.begin + HEAD <= end) {
      const at = this.begin;
      if (held[at] !== SYNC[0] || held[at + 1] !== SYNC[1]) {
        damaged();
        continue;
      }
      const length = view.getUint16(at + 6, true);
      // A damaged length is known at once: nothing is waited for that will not come.
      if (crc16(held.subarray(at + 2, at + 8)) !== view.getUint16(at + 8, true) || length > MOST_CARRIED) {
        damaged();
        continue;
      }
      const after = at + HEAD + length + TAIL;
      if (after > end) break;
      if (this.check(held.subarray(at + HEAD, at + HEAD + length)) !== view.getUint32(after - TAIL, true)) {
        damaged();
        continue;
      }
      // Of another version nothing but its length is known.
      if (held[at + 2] === FRAME_VERSION) frames.push({ kind: held[at + 3], request: view.getUint16(at + 4, true), carried: held.slice(at + HEAD, at + HEAD + length) }); // prettier-ignore
      this.begin = after;
    }
    return frames;
  }
}
