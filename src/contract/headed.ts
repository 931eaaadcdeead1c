/** Numbers behind a head: u32 length of the head (little-endian), the head as JSON, padded to four bytes; then the parts one after the other. */
export function headed(head: unknown, parts: readonly ArrayBufferView[]): Uint8Array<ArrayBuffer> {
  const text = new TextEncoder().encode(JSON.stringify(head));
  const start = (4 + text.length + 3) & ~3;
  const out = new Uint8Array(start + parts.reduce((sum, p) => sum + p.byteLength, 0));
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  let at = start;
  for (const part of parts) {
    out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
    at += part.byteLength;
  }
  return out;
}

/** Reads what `headed` wrote. @returns the head; and where its numbers begin in a buffer in which they can be looked at as they are, and end */
export function unheaded<T>(bytes: Uint8Array): {
  head: T;
  buffer: ArrayBufferLike;
  at: number;
  end: number;
} {
  const own = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  const length = new DataView(own.buffer, own.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(own.subarray(4, 4 + length))) as T;
  return {
    head,
    buffer: own.buffer,
    at: own.byteOffset + ((4 + length + 3) & ~3),
    end: own.byteOffset + own.byteLength,
  };
}
