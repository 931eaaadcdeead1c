/** A JSON head and numbers behind it, as the pages read them: u32 length of the head (little-endian), the head as UTF-8, then float32. */
export function packed(head: unknown, numbers: readonly Float32Array[]): Uint8Array<ArrayBuffer> {
  const text = new TextEncoder().encode(JSON.stringify(head));
  const bytes = new Uint8Array(4 + text.length + numbers.reduce((sum, n) => sum + n.byteLength, 0));
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(text, 4);
  let at = 4 + text.length;
  for (const part of numbers) {
    bytes.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
    at += part.byteLength;
  }
  return bytes;
}

/** Reads what `packed` wrote. @returns the head, and what gives the next so many numbers */
export function unpacked<T>(bytes: ArrayBuffer): { head: T; next(count: number): Float32Array } {
  const length = new DataView(bytes).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))) as T;
  let at = 4 + length;
  return {
    head,
    next(count) {
      const part = new Float32Array(bytes.slice(at, at + count * 4));
      at += count * 4;
      return part;
    },
  };
}
