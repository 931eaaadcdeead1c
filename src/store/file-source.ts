import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { basename } from 'node:path';
import type { Source } from '$core/formats/format';

/** A file that formats read a piece at a time. @param name what the user calls it; its name on the disk by default
 *  @throws Node's error where it cannot be opened */
export function openSource(path: string, name = basename(path)): Source & { close(): void } {
  const file = openSync(path, 'r');
  const { size } = fstatSync(file);
  return {
    name,
    length: size,
    read(at, count) {
      const bytes = new Uint8Array(Math.max(0, Math.min(count, size - at)));
      let got = 0;
      while (got < bytes.length) {
        const n = readSync(file, bytes, got, bytes.length - got, at + got);
        if (n === 0) break;
        got += n;
      }
      return got < bytes.length ? bytes.subarray(0, got) : bytes;
    },
    close: () => closeSync(file),
  };
}
