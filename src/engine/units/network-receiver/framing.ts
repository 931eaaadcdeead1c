import { damaged } from '$core/errors';

/** Length of a head, bytes, and the four letters that it begins with. docs/radio-framing.md says the whole of it. */
export const HEAD_BYTES = 48;
const LETTERS = 0x31765149; // “IQv1”, little-endian
/** Samples of a frame at the most. */
const SAMPLES_MOST = 1 << 20;
export const FORMATS = { float32: 0, int16: 1 } as const;

/** A frame as it came. */
export interface IqFrame {
  first: number;
  centreHz: number;
  sampleRateHz: number;
  /** V rms over 50 Ω of |z| = 1; 0 where it is not known. */
  volts: number;
  overload: boolean;
  /** As shares of full scale, I and Q in turn. */
  iq: Float32Array;
}

/** Writes a frame: its head, and samples as 32-bit floats. */
export function iqFrame({ first, centreHz, sampleRateHz, volts, overload, iq }: IqFrame): Uint8Array {
  const out = new Uint8Array(HEAD_BYTES + iq.byteLength);
  const view = new DataView(out.buffer);
  view.setUint32(0, LETTERS, true);
  view.setUint32(4, iq.length / 2, true);
  view.setFloat64(8, first, true);
  view.setFloat64(16, centreHz, true);
  view.setFloat64(24, sampleRateHz, true);
  view.setFloat64(32, volts, true);
  view.setUint32(40, overload ? 1 : 0, true);
  view.setUint32(44, FORMATS.float32, true);
  out.set(new Uint8Array(iq.buffer, iq.byteOffset, iq.byteLength), HEAD_BYTES);
  return out;
}

/** Joins bytes into frames. */
export class FrameCutter {
  private held = new Uint8Array(0);

  /** @returns frames that are whole @throws `damaged` for what is no frame */
  push(chunk: Uint8Array): IqFrame[] {
    const joined = new Uint8Array(this.held.length + chunk.length);
    joined.set(this.held);
    joined.set(chunk, this.held.length);
    const view = new DataView(joined.buffer);
    const frames: IqFrame[] = [];
    let at = 0;
    while (joined.length - at >= HEAD_BYTES) {
      const count = view.getUint32(at + 4, true);
      const format = view.getUint32(at + 44, true);
      const sampleRateHz = view.getFloat64(at + 24, true);
      const first = view.getFloat64(at + 8, true);
      const whole = Number.isSafeInteger(first) && first >= 0 && sampleRateHz > 0 && sampleRateHz <= 1e9;
      if (view.getUint32(at, true) !== LETTERS || count > SAMPLES_MOST || format > 1 || !whole)
        throw damaged(
          'I and Q',
          'What arrived is no frame of samples.',
          'Look at what listens on this port: it has to send I and Q in the framing that is documented.',
        );
      const bytes = HEAD_BYTES + count * (format === FORMATS.float32 ? 8 : 4);
      if (joined.length - at < bytes) break;
      frames.push({
        first,
        centreHz: view.getFloat64(at + 16, true),
        sampleRateHz,
        volts: view.getFloat64(at + 32, true),
        overload: (view.getUint32(at + 40, true) & 1) === 1,
        iq: samplesOf(joined.slice(at + HEAD_BYTES, at + bytes), format),
      });
      at += bytes;
    }
    this.held = joined.slice(at);
    return frames;
  }
}

function samplesOf(bytes: Uint8Array, format: number): Float32Array {
  if (format === FORMATS.float32) return new Float32Array(bytes.buffer);
  return Float32Array.from(new Int16Array(bytes.buffer), (v) => v / 32768);
}
