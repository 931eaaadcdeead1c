import { decode, encode } from 'cborg';

/** Messages to an instrument; its answer has the same number with the highest bit set. */
export const KINDS = {
  hello: 1,
  state: 2,
  clock: 3,
  setUp: 4,
  readings: 5,
  sleep: 6,
  clearAlarm: 7,
  /** Of stations: the programme that runs, a piece of a new one, that it be compiled, rows of a table, values of now, what is set by hand. */
  programme: 0x10,
  send: 0x11,
  compile: 0x12,
  rows: 0x13,
  live: 0x14,
  set: 0x15,
  /** Of stand-ins alone: puts a recorder in, takes it out, pushes its button. */
  play: 0x60,
} as const;
export type Kind = keyof typeof KINDS;
export const ANSWER = 0x80;
/** An answer that says why something was not done. */
export const REFUSED = 0xff;

/** Why an instrument does not do something. */
export interface Refusal {
  why: 'empty' | 'gone' | 'unknown' | 'password' | 'wait' | 'does not fit' | 'busy' | 'changed';
  says: string;
  /** Of `wait`: so long, s. */
  waitS?: number;
}

/** A message's content as bytes (CBOR, RFC 8949), and back. @throws Error for bytes that are none */
export const packed = (content: unknown): Uint8Array => encode(content);
export const unpacked = <T>(bytes: Uint8Array): T => decode(bytes);

/** Readings on the line: where they begin, how many a reading has, and each in hundredths; the lowest number stands for one that is missing. */
export interface ReadingsPiece {
  /** Of the recording that they belong to: with a new one everything begins anew. */
  run: number;
  from: number;
  width: number;
  values: Int16Array;
}
const MISSING = -32768;
const PIECE_HEAD = 9;

/** @throws RangeError for readings that two bytes do not hold */
export function readingsBytes({ run, from, width, values }: ReadingsPiece): Uint8Array {
  const bytes = new Uint8Array(PIECE_HEAD + values.length * 2);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, run, true);
  view.setUint32(4, from, true);
  bytes[8] = width;
  for (let i = 0, at = PIECE_HEAD; i < values.length; i++, at += 2) view.setInt16(at, values[i], true);
  return bytes;
}
/** @throws RangeError for bytes that are cut off */
export function readReadings(bytes: Uint8Array): ReadingsPiece {
  if (bytes.length < PIECE_HEAD || (bytes.length - PIECE_HEAD) % 2)
    throw new RangeError('The readings are cut off.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const values = new Int16Array((bytes.length - PIECE_HEAD) / 2);
  for (let i = 0, at = PIECE_HEAD; i < values.length; i++, at += 2) values[i] = view.getInt16(at, true);
  return { run: view.getUint32(0, true), from: view.getUint32(4, true), width: bytes[8], values };
}

/** A reading as it is kept, in hundredths of its unit; one that is out of what two bytes hold is missing. */
export function hundredths(value: number): number {
  const whole = Math.round(value * 100);
  return Number.isFinite(value) && whole > MISSING && whole <= 32767 ? whole : MISSING;
}
/** @returns NaN for one that is missing */
export const fromHundredths = (kept: number): number => (kept === MISSING ? NaN : kept / 100);
