import { crc16, crc32 } from './checks';

/** What a frame begins with. */
const SYNC = [0xf5, 0x1d] as const;
const FRAME_VERSION = 1;
/** Bytes before and after what is carried. */
const HEAD = 10;
const TAIL = 4;
export const MOST_CARRIED = 4096;

/** A message on the line: what it is, to which request it belongs, and what it carries. */
export interface Frame {
  kind: number;
  /** Counts up with each request, modulo 65,536; an answer has that of its request. */
  request: number;
  carried: Uint8Array;
}

/** A frame as it goes over the line (docs/field-protocol.md): sync, version, kind, request and length with a check of their own, then what is carried with
 *  its check. @throws RangeError for more than a frame carries */
export function frameBytes({ kind, request, carried }: Frame): Uint8Array {
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
  view.setUint32(HEAD + carried.length, crc32(carried), true);
  return bytes;
}

/** Finds frames in bytes that come in whatever pieces. What is damaged is passed over: the next whole frame is found behind it. */
export class FrameReader {
  private held = new Uint8Array(0);
  /** Bytes that belonged to no frame. */
  lost = 0;

  /** @returns the frames that are whole now, in their order */
  push(piece: Uint8Array): Frame[] {
    const bytes = new Uint8Array(this.held.length + piece.length);
    bytes.set(this.held);
    bytes.set(piece, this.held.length);
    const view = new DataView(bytes.buffer);
    const frames: Frame[] = [];
    let at = 0;
    while (at + HEAD <= bytes.length) {
      if (bytes[at] !== SYNC[0] || bytes[at + 1] !== SYNC[1]) {
        at++;
        this.lost++;
        continue;
      }
      const length = view.getUint16(at + 6, true);
      // A damaged length is known at once: nothing is waited for that will not come.
      if (crc16(bytes.subarray(at + 2, at + 8)) !== view.getUint16(at + 8, true) || length > MOST_CARRIED) {
        at++;
        this.lost++;
        continue;
      }
      const end = at + HEAD + length + TAIL;
      if (end > bytes.length) break;
      const carried = bytes.slice(at + HEAD, at + HEAD + length);
      if (crc32(carried) !== view.getUint32(end - TAIL, true)) {
        at++;
        this.lost++;
        continue;
      }
      // Of another version nothing but its length is known.
      if (bytes[at + 2] === FRAME_VERSION) frames.push({ kind: bytes[at + 3], request: view.getUint16(at + 4, true), carried }); // prettier-ignore
      at = end;
    }
    this.held = bytes.slice(at);
    return frames;
  }
}
