import { badInput } from '../errors';

/** Numbers as register maps hold them: 16-bit registers, each with its high byte first (Modbus application protocol V1.1b3, 4.2). */
export const REGISTER_TYPES = [
  'int16',
  'uint16',
  'int32',
  'uint32',
  'int64',
  'float32',
  'float64',
  'bit',
] as const;
export type RegisterType = (typeof REGISTER_TYPES)[number];
/** The standard leaves open which of several registers comes first. */
export const WORD_ORDERS = ['high word first', 'low word first'] as const;
export type WordOrder = (typeof WORD_ORDERS)[number];

const WORDS: Record<RegisterType, number> = {
  int16: 1,
  uint16: 1,
  int32: 2,
  uint32: 2,
  int64: 4,
  float32: 2,
  float64: 4,
  bit: 1,
};
/** Registers that a number of this type takes. */
export const registersOf = (type: RegisterType) => WORDS[type];

const view = (words: ArrayLike<number>, order: WordOrder, count: number) => {
  const data = new DataView(new ArrayBuffer(8));
  for (let k = 0; k < count; k++)
    data.setUint16(2 * k, words[order === 'high word first' ? k : count - 1 - k]);
  return data;
};

/** @param words registers as they came, shape [registersOf(type)] */
export function decodeRegisters(words: ArrayLike<number>, type: RegisterType, order: WordOrder): number {
  const data = view(words, order, WORDS[type]);
  switch (type) {
    case 'bit':
      return words[0] ? 1 : 0;
    case 'int16':
      return data.getInt16(0);
    case 'uint16':
      return data.getUint16(0);
    case 'int32':
      return data.getInt32(0);
    case 'uint32':
      return data.getUint32(0);
    case 'int64':
      return Number(data.getBigInt64(0));
    case 'float32':
      return data.getFloat32(0);
    case 'float64':
      return data.getFloat64(0);
  }
}

const LIMITS: Partial<Record<RegisterType, [number, number]>> = {
  bit: [0, 1],
  int16: [-32768, 32767],
  uint16: [0, 65535],
  int32: [-2147483648, 2147483647],
  uint32: [0, 4294967295],
  int64: [-Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER],
};

/** Registers that hold a value; whole-number types round and stay within what they can hold. @returns shape [registersOf(type)]
 *  @throws `bad_input` for what is no number, or infinite */
export function encodeRegisters(value: number, type: RegisterType, order: WordOrder): number[] {
  if (!Number.isFinite(value)) throw badInput('value', value, 'Only numbers can be written to a register.');
  const data = new DataView(new ArrayBuffer(8));
  const limits = LIMITS[type];
  const kept = limits ? Math.min(limits[1], Math.max(limits[0], Math.round(value))) : value;
  if (type === 'bit') return [kept];
  if (type === 'float32') data.setFloat32(0, kept);
  else if (type === 'float64') data.setFloat64(0, kept);
  else if (type === 'int64') data.setBigInt64(0, BigInt(kept));
  else if (WORDS[type] === 2) data.setUint32(0, kept >>> 0);
  else data.setUint16(0, kept & 0xffff);
  const words = Array.from({ length: WORDS[type] }, (_, k) => data.getUint16(2 * k));
  return order === 'high word first' ? words : words.reverse();
}
