/** Types of the numbers that are stored, and classes of arrays (MAT-File Format, Level 5). */
export const TYPE = { int8: 1, uint8: 2, int16: 3, uint16: 4, int32: 5, uint32: 6, single: 7, double: 9, int64: 12, uint64: 13, matrix: 14, compressed: 15, utf8: 16, utf16: 17 } as const; // prettier-ignore
export const CLASS = { struct: 2, char: 4, double: 6, single: 7, uint64: 15 } as const;
export const COMPLEX = 0x0800;

/** Bytes of a number of each type. */
export const SIZES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 2,
  5: 4,
  6: 4,
  7: 4,
  9: 8,
  12: 8,
  13: 8,
  16: 1,
  17: 2,
};
export const padded = (bytes: number): number => Math.ceil(bytes / 8) * 8;

/** A tag and room for what it holds. */
export function tag(type: number, bytes: number): Uint8Array {
  const out = new DataView(new ArrayBuffer(8));
  out.setUint32(0, type, true);
  out.setUint32(4, bytes, true);
  return new Uint8Array(out.buffer);
}
/** A whole element: its tag, its bytes, filled up to a multiple of eight. */
export function element(type: number, content: Uint8Array): Uint8Array {
  const out = new Uint8Array(8 + padded(content.length));
  out.set(tag(type, content.length));
  out.set(content, 8);
  return out;
}
export const joined = (...parts: Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
};
const bytesOf = (values: Int32Array | Uint32Array | Float64Array | Uint16Array): Uint8Array =>
  new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
export const ascii = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0) & 0x7f);

/** What stands before an array’s numbers: its class, its dimensions, its name. */
export const arrayHead = (of: number, dimensions: readonly number[], name: string): Uint8Array =>
  joined(
    element(TYPE.uint32, bytesOf(Uint32Array.of(of, 0))),
    element(TYPE.int32, bytesOf(Int32Array.from(dimensions))),
    element(TYPE.int8, ascii(name)),
  );
/** Small arrays as whole elements. */
export const numberArray = (values: readonly number[], name = ''): Uint8Array =>
  element(TYPE.matrix, joined(arrayHead(CLASS.double, [1, values.length], name), element(TYPE.double, bytesOf(Float64Array.from(values))))); // prettier-ignore
/** Letters of plain ASCII stand as older readers know them, others say that they are UTF-16. */
export const textArray = (text: string): Uint8Array => {
  const codes = Uint16Array.from({ length: text.length }, (_, i) => text.charCodeAt(i));
  const type = codes.every((c) => c < 0x80) ? TYPE.uint16 : TYPE.utf16;
  return element(TYPE.matrix, joined(arrayHead(CLASS.char, [text ? 1 : 0, text.length], ''), element(type, bytesOf(codes)))); // prettier-ignore
};
