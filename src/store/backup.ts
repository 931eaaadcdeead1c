import { mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import type { Db } from './database';

/** Copies that are kept, the newest ones. */
const KEPT = 7;
const DAY_MS = 24 * 3600 * 1000;

const backupFolder = (folder: string) => join(folder, 'backup');
/** Copies of the job database, newest first. */
export const backupsIn = (folder: string): string[] => {
  try {
    return readdirSync(backupFolder(folder))
      .filter((name) => /^farrier-[\dT-]+\.db$/.test(name))
      .sort()
      .reverse()
      .map((name) => join(backupFolder(folder), name));
  } catch {
    return [];
  }
};

/** Whether a database is whole, by SQLite's own check. @returns what is wrong, null for nothing */
export function faultIn(path: string): string | null {
  try {
    const db = new Sqlite(path, { readonly: true, fileMustExist: true });
    try {
      const [{ quick_check: says }] = db.pragma('quick_check(1)') as { quick_check: string }[];
      return says === 'ok' ? null : says;
    } finally {
      db.close();
    }
  } catch (error) {
    return (error as Error).message;
  }
}

/** Rolling copies of the job database, by SQLite's own means, while it is in use: at the start and daily. A copy counts once it was
 *  checked; only then an old one goes. */
export class Backups {
  private timer: NodeJS.Timeout | null = null;

  /** @param trouble told when a copy could not be made */
  constructor(
    private readonly db: Db,
    private readonly folder: string,
    private readonly trouble: (says: string) => void,
    private readonly now: () => Date = () => new Date(),
  ) {}

  begin(): void {
    void this.make();
    this.timer = setInterval(() => void this.make(), DAY_MS).unref();
  }
  end = () => clearInterval(this.timer ?? undefined);

  /** Makes one copy. @returns its path, or null when it could not be made, which is said */
  async make(): Promise<string | null> {
    const stamp = this.now().toISOString().slice(0, 19).replaceAll(':', '-');
    const path = join(backupFolder(this.folder), `farrier-${stamp}.db`);
    const open = `${path}.part`;
    try {
      mkdirSync(backupFolder(this.folder), { recursive: true });
      await this.db.$client.backup(open);
      const fault = faultIn(open);
      if (fault) throw new Error(`the copy is not whole: ${fault}`);
      renameSync(open, path);
      for (const old of backupsIn(this.folder).slice(KEPT)) rmSync(old, { force: true });
      return path;
    } catch (error) {
      clear(open);
      if (this.db.$client.open)
        this.trouble(
          `No copy of the job database could be made: ${(error as Error).message}. See to the disk; older copies are kept.`,
        );
      return null;
    }
  }
}

/** Takes a half-made copy away, where there is one. */
function clear(path: string): void {
  for (const end of ['', '-wal', '-shm', '-journal'])
    try {
      rmSync(path + end, { force: true });
    } catch {
      // its folder is none: there is nothing to take away
    }
}
