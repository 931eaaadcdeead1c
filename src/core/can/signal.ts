import { badInput } from '../errors';

/** Where a number stands in the data of a frame, and what it means. */
export interface BusSignal {
  name: string;
  /** Bit at which it starts: the lowest bit counted from bit 0 of byte 0 for little endian, the highest for big endian. */
  start: number;
  length: number;
  bigEndian: boolean;
  signed: boolean;
  /** Bits that are an IEEE 754 number instead of an integer. */
  float: boolean;
  factor: number;
  offset: number;
  min: number;
  max: number;
  unit: string;
  /** Present only while the multiplexor of the message has this value. */
  multiplexed: number | null;
  multiplexor: boolean;
  /** Raw number that it holds before anybody sent one; null where the description does not say. */
  initial: number | null;
}

export interface BusMessage {
  /** Identifier without its flag of length. */
  id: number;
  extended: boolean;
  name: string;
  /** Bytes. */
  length: number;
  sender: string;
  signals: BusSignal[];
}

/** Numbers of the bits of a signal, from the lowest in value to the highest: byte * 8 + bit within the byte. */
function bits({ start, length, bigEndian }: BusSignal): number[] {
  if (!bigEndian) return Array.from({ length }, (_, k) => start + k);
  const found: number[] = [];
  let bit = start;
  for (let k = 0; k < length; k++) {
    found.unshift(bit);
    // Downwards within a byte, then from the top of the next.
    bit = bit % 8 === 0 ? bit + 15 : bit - 1;
  }
  return found;
}

/** Whether all bits of a signal lie within so many bytes. */
export const fits = (signal: BusSignal, bytes: number) =>
  bits(signal).every((bit) => bit >= 0 && bit < bytes * 8);

/** The raw number of a signal in a frame's data, before factor and offset. @returns NaN when the data is too short for it */
export function rawOf(signal: BusSignal, data: ArrayLike<number>): number {
  let value = 0n;
  const places = bits(signal);
  for (let k = 0; k < places.length; k++) {
    const byte = places[k] >> 3;
    if (byte >= data.length) return NaN;
    if ((data[byte] >> (places[k] & 7)) & 1) value |= 1n << BigInt(k);
  }
  if (signal.float) {
    const view = new DataView(new ArrayBuffer(8));
    if (signal.length === 32) view.setUint32(0, Number(value));
    else view.setBigUint64(0, value);
    return signal.length === 32 ? view.getFloat32(0) : view.getFloat64(0);
  }
  return Number(signal.signed ? BigInt.asIntN(signal.length, value) : value);
}

/** The value of a signal in its unit: raw · factor + offset. @returns NaN when the data is too short for it */
export const valueOf = (signal: BusSignal, data: ArrayLike<number>) =>
  rawOf(signal, data) * signal.factor + signal.offset;

/** Writes a value into a frame's data, rounded and kept within what the bits can hold.
 *  @throws `bad_input` for what is no number, or infinite */
export function writeSignal(signal: BusSignal, data: Uint8Array, value: number): void {
  if (!Number.isFinite(value)) throw badInput(signal.name, value, 'Only numbers can be sent.');
  const { length, signed } = signal;
  let raw: bigint;
  if (signal.float) {
    const view = new DataView(new ArrayBuffer(8));
    if (length === 32) view.setFloat32(0, (value - signal.offset) / signal.factor);
    else view.setFloat64(0, (value - signal.offset) / signal.factor);
    raw = length === 32 ? BigInt(view.getUint32(0)) : view.getBigUint64(0);
  } else {
    const low = signed ? -(2n ** BigInt(length - 1)) : 0n;
    const high = signed ? 2n ** BigInt(length - 1) - 1n : 2n ** BigInt(length) - 1n;
    const wanted = BigInt(Math.round((value - signal.offset) / signal.factor) || 0);
    raw = BigInt.asUintN(length, wanted < low ? low : wanted > high ? high : wanted);
  }
  bits(signal).forEach((bit, k) => {
    const on = Number((raw >> BigInt(k)) & 1n);
    data[bit >> 3] = (data[bit >> 3] & ~(1 << (bit & 7))) | (on << (bit & 7));
  });
}

/** The values that a frame carries, by signal: those multiplexed away are left out. */
export function decodeFrame(
  message: BusMessage,
  data: ArrayLike<number>,
): { signal: BusSignal; raw: number }[] {
  const switching = message.signals.find((s) => s.multiplexor);
  const chosen = switching ? rawOf(switching, data) : NaN;
  return message.signals
    .filter((s) => s.multiplexed === null || s.multiplexed === chosen)
    .map((signal) => ({ signal, raw: rawOf(signal, data) }))
    .filter(({ raw }) => !Number.isNaN(raw));
}
