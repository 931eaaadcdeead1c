import { closeSync, existsSync, openSync, rmSync, statfsSync, statSync, writeSync } from 'node:fs';
import { join } from 'node:path';

/** Room that is held so that what runs can be closed in it once the disk is full. */
const RESERVE_BYTES = 16 * 1024 * 1024;
/** It is only held where there is plenty besides. */
const PLENTY = 8 * RESERVE_BYTES;

const pathOf = (folder: string) => join(folder, 'reserve');

/** Holds the reserve, anew after it was used, if there is plenty of room. @returns whether it is held now */
export function holdReserve(folder: string): boolean {
  const path = pathOf(folder);
  try {
    if (existsSync(path) && statSync(path).size === RESERVE_BYTES) return true;
    const { bavail, bsize } = statfsSync(folder);
    if (bavail * bsize < PLENTY) return false;
    const file = openSync(path, 'w');
    // Written, not only lengthened: a file with a hole takes no room.
    const piece = Buffer.alloc(1024 * 1024, 0x5a);
    for (let k = 0; k < RESERVE_BYTES / piece.length; k++) writeSync(file, piece);
    closeSync(file);
    return true;
  } catch {
    rmSync(path, { force: true });
    return false;
  }
}

/** Gives the reserve up: its room is for closing what runs. @returns whether there was one */
export function releaseReserve(folder: string): boolean {
  const held = existsSync(pathOf(folder));
  rmSync(pathOf(folder), { force: true });
  return held;
}

/** SQLite cannot even make its small files beside a database in less than this. */
const SCANT = 256 * 1024;

/** Whether there is no room left to open a database in. SQLite says that in several ways ("disk I/O error", "unable to open"). */
export function isScant(folder: string): boolean {
  try {
    const { bavail, bsize } = statfsSync(folder);
    return bavail * bsize < SCANT;
  } catch {
    return false;
  }
}

/** Whether an error says that the disk is full: of a file, or of SQLite. */
export function isDiskFull(error: unknown): boolean {
  const { code, message, cause } = (error ?? {}) as { code?: string; message?: string; cause?: unknown };
  return (
    /^(ENOSPC|EDQUOT|EFBIG|SQLITE_FULL)$/.test(code ?? '') ||
    /database or disk is full|no space left/i.test(message ?? '') ||
    (cause !== undefined && isDiskFull(cause))
  );
}
