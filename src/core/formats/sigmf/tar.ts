import { damaged } from '../../errors';
import type { Source } from '../format';

const BLOCK = 512;
/** Files that are looked for in an archive at the most. */
const FILES_MOST = 10_000;

export interface TarFile {
  name: string;
  /** Place of its bytes in the archive. */
  at: number;
  length: number;
}

/** The header of a file in an archive (POSIX.1-1988 ustar). @param length bytes that follow, up to 8 GB */
export function tarHead(name: string, length: number): Uint8Array {
  const out = new Uint8Array(BLOCK);
  const put = (at: number, text: string) => out.set(new TextEncoder().encode(text), at);
  const octal = (at: number, width: number, value: number) =>
    put(at, value.toString(8).padStart(width - 1, '0'));
  put(0, name);
  octal(100, 8, 0o644);
  octal(108, 8, 0);
  octal(116, 8, 0);
  octal(124, 12, length);
  octal(136, 12, 0);
  put(148, ' '.repeat(8));
  put(156, '0');
  put(257, 'ustar\x0000');
  octal(
    148,
    7,
    out.reduce((sum, byte) => sum + byte, 0),
  );
  return out;
}
/** What fills up the last block of a file. */
export const tarFill = (length: number): Uint8Array => new Uint8Array((BLOCK - (length % BLOCK)) % BLOCK);
/** What ends an archive. */
export const tarEnd = (): Uint8Array => new Uint8Array(2 * BLOCK);

/** Files of an archive. @throws `damaged` where a header's sum is wrong or a file goes beyond the end */
export function tarFiles(source: Source): TarFile[] {
  const files: TarFile[] = [];
  for (let at = 0; at + BLOCK <= source.length && files.length < FILES_MOST;) {
    const head = source.read(at, BLOCK);
    if (head.every((byte) => byte === 0)) break;
    const text = (from: number, width: number) =>
      new TextDecoder().decode(head.subarray(from, from + width)).split('\0')[0];
    const octal = (from: number, width: number) => {
      const digits = text(from, width).trim();
      return /^[0-7]+$/.test(digits) ? parseInt(digits, 8) : NaN;
    };
    const own = head.reduce((sum, byte, i) => sum + (i >= 148 && i < 156 ? 32 : byte), 0);
    const length = octal(124, 12);
    if (octal(148, 8) !== own || Number.isNaN(length) || at + BLOCK + length > source.length)
      throw damaged(source.name, `The archive is not whole at byte ${at}.`, 'Copy it again.');
    // 0 and none are plain files; others are folders, links and remarks.
    if (text(156, 1) === '0' || text(156, 1) === '') {
      const folder = text(257, 5) === 'ustar' ? text(345, 155) : '';
      files.push({ name: folder ? `${folder}/${text(0, 100)}` : text(0, 100), at: at + BLOCK, length });
    }
    at += BLOCK + Math.ceil(length / BLOCK) * BLOCK;
  }
  return files;
}
