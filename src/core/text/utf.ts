/** Of the platform (WHATWG Encoding), in Node and browsers alike. */
declare const TextDecoder: {
  new (
    label: string,
    options?: { fatal?: boolean },
  ): { decode(bytes: Uint8Array, options?: { stream?: boolean }): string };
};

/** How the bytes of a file become text: by its byte order mark, else UTF-8, else the Western code page that older instruments write.
 *  @param beginning of the file @returns the decoder of any part that ends between characters, bytes of a code unit, length of the mark */
export function textReader(beginning: Uint8Array): {
  decode(bytes: Uint8Array): string;
  unit: 1 | 2;
  mark: number;
} {
  const [a, b, c] = beginning;
  const by = (label: string, unit: 1 | 2, mark: number) => {
    const decoder = new TextDecoder(label);
    return { decode: (bytes: Uint8Array) => decoder.decode(bytes), unit, mark };
  };
  if (a === 0xff && b === 0xfe) return by('utf-16le', 2, 2);
  if (a === 0xfe && b === 0xff) return by('utf-16be', 2, 2);
  if (a === 0xef && b === 0xbb && c === 0xbf) return by('utf-8', 1, 3);
  try {
    // The beginning may end within a character.
    new TextDecoder('utf-8', { fatal: true }).decode(beginning, { stream: true });
    return by('utf-8', 1, 0);
  } catch {
    return by('windows-1252', 1, 0);
  }
}

/** Text of a file, whole. */
export function decodeText(bytes: Uint8Array): string {
  const { decode, mark } = textReader(bytes);
  return decode(bytes.subarray(mark));
}
