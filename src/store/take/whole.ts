import { damaged } from '$core/errors';
import Sqlite from 'better-sqlite3';

/** Looks through the pages of a take's file: of one that is not sealed it is all that can be checked. What was written beside it is put into it.
 *  @param name what the user calls the file @throws `damaged`, or SQLite's error where it cannot even be opened */
export function checkWhole(path: string, name: string): void {
  const db = new Sqlite(path);
  try {
    const problem = db.pragma('quick_check(1)', { simple: true });
    if (problem !== 'ok')
      throw damaged(name, 'The take is damaged.', `Copy it again. (${String(problem).slice(0, 200)})`);
    db.pragma('wal_checkpoint(TRUNCATE)');
  } finally {
    db.close();
  }
}
