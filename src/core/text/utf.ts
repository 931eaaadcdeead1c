/** Of the platform (WHATWG Encoding), in Node and browsers alike. */
declare const TextDecoder: {
  new (label: string, options?: { fatal?: boolean }): { decode(bytes: Uint8Array): string };
};

/** Text of a file: by its byte order mark, else UTF-8, else the Western code page that older instruments write. */
export function decodeText(bytes: Uint8Array): string {
  const [a, b] = bytes;
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
