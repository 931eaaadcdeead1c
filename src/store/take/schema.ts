import { FarrierError } from '$core/errors';
import type { SampledHead } from '$core/samples/sampled';
import Sqlite from 'better-sqlite3';

/** “FARR”, so that any tool can tell a take from another SQLite file. */
export const TAKE_APPLICATION_ID = 0x46415252;
export const TAKE_VERSION = 6;
/** Key of a take that grows: how far what it grows from has been read. */
export const REACHED = 'reached';

/** The tables of a take file; docs/formats.md explains every column. */
const SCHEMA = `
CREATE TABLE take (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE rate_group (id INTEGER PRIMARY KEY, offset_ns INTEGER NOT NULL, rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, length INTEGER NOT NULL);
CREATE TABLE signal (id INTEGER PRIMARY KEY, channel_id TEXT, name TEXT NOT NULL, raw_unit TEXT NOT NULL, group_id INTEGER NOT NULL REFERENCES rate_group(id),
  junction INTEGER REFERENCES signal(id), snapshot TEXT, width INTEGER NOT NULL DEFAULT 1, made TEXT);
CREATE TABLE conversion (signal INTEGER NOT NULL REFERENCES signal(id), revision INTEGER NOT NULL, at INTEGER NOT NULL, by TEXT NOT NULL, reason TEXT NOT NULL,
  unit TEXT NOT NULL, body TEXT NOT NULL, source INTEGER REFERENCES signal(id), snapshot TEXT, name TEXT, plain TEXT, mends TEXT, PRIMARY KEY (signal, revision)) WITHOUT ROWID;
CREATE TABLE block (signal INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (signal, first));
CREATE TABLE envelope (signal INTEGER NOT NULL, level INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (signal, level, first));
CREATE TABLE gap (group_id INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, reason TEXT NOT NULL);
CREATE TABLE proof (signal INTEGER NOT NULL REFERENCES signal(id), moment TEXT NOT NULL, step TEXT NOT NULL, offset_ns INTEGER NOT NULL,
  rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL);
CREATE TABLE timing (unit TEXT PRIMARY KEY, name TEXT NOT NULL, offset_ms REAL NOT NULL, drift_ppm REAL NOT NULL, drift_u_ppm REAL NOT NULL, blocks INTEGER NOT NULL) WITHOUT ROWID;
CREATE TABLE seal (body TEXT NOT NULL);
CREATE TABLE note (id INTEGER PRIMARY KEY, offset_ns INTEGER NOT NULL, kind TEXT NOT NULL, says TEXT NOT NULL, by TEXT NOT NULL,
  until_ns INTEGER, written INTEGER, replaces INTEGER REFERENCES note(id));
CREATE TABLE judgement (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, verdict TEXT NOT NULL, reason TEXT NOT NULL);
`;

/** What each version added to the one before it. */
const ADDED: Record<number, string> = {
  // Proofs, and what a later conversion was made with.
  2: `
ALTER TABLE conversion ADD COLUMN source INTEGER REFERENCES signal(id);
ALTER TABLE conversion ADD COLUMN snapshot TEXT;
CREATE TABLE proof (signal INTEGER NOT NULL REFERENCES signal(id), moment TEXT NOT NULL, step TEXT NOT NULL, offset_ns INTEGER NOT NULL,
  rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL);`,
  // The clocks of the units, and the seal.
  3: `
CREATE TABLE timing (unit TEXT PRIMARY KEY, name TEXT NOT NULL, offset_ms REAL NOT NULL, drift_ppm REAL NOT NULL, drift_u_ppm REAL NOT NULL, blocks INTEGER NOT NULL) WITHOUT ROWID;
CREATE TABLE seal (body TEXT NOT NULL);`,
  // Complex samples.
  4: `
ALTER TABLE signal ADD COLUMN width INTEGER NOT NULL DEFAULT 1;`,
  // Mendings, notes over a span that were written afterwards, verdicts.
  5: `
ALTER TABLE conversion ADD COLUMN name TEXT;
ALTER TABLE conversion ADD COLUMN plain TEXT;
ALTER TABLE conversion ADD COLUMN mends TEXT;
ALTER TABLE note ADD COLUMN until_ns INTEGER;
ALTER TABLE note ADD COLUMN written INTEGER;
ALTER TABLE note ADD COLUMN replaces INTEGER REFERENCES note(id);
CREATE TABLE judgement (id INTEGER PRIMARY KEY, at INTEGER NOT NULL, by TEXT NOT NULL, verdict TEXT NOT NULL, reason TEXT NOT NULL);`,
  // Signals that are made from others.
  6: `
ALTER TABLE signal ADD COLUMN made TEXT;`,
};

/** Gives a file of an earlier version what it lacks, within the caller's transaction. */
function upgradeTake(db: Sqlite.Database): void {
  const version = Math.max(1, db.pragma('user_version', { simple: true }) as number);
  for (let next = version + 1; next <= TAKE_VERSION; next++) db.exec(ADDED[next]);
  db.pragma(`user_version = ${TAKE_VERSION}`);
}

/** Adds to a finished take, in one transaction: what was recorded is never touched.
 *  @throws `unavailable` when the file cannot be written; nothing was changed then */
export function addToTake<T>(path: string, what: string, work: (db: Sqlite.Database) => T): T {
  let db: Sqlite.Database | null = null;
  try {
    const open = (db = new Sqlite(path, { fileMustExist: true }));
    open.pragma('busy_timeout = 5000');
    const made = open.transaction(() => {
      upgradeTake(open);
      return work(open);
    })();
    open.pragma('wal_checkpoint(TRUNCATE)');
    return made;
  } catch (error) {
    if (error instanceof FarrierError) throw error;
    throw new FarrierError('unavailable', {
      what,
      where: path,
      why: (error as Error).message,
      next: 'Check the rights of the file and the free space; nothing was changed.',
    });
  } finally {
    db?.close();
  }
}

export type Width = SampledHead['width'];

/** The width of each signal of a file of any version, by its number. */
export function widthsOf(db: Sqlite.Database): Map<number, Width> {
  const kept = (db.pragma('user_version', { simple: true }) as number) >= 4;
  const rows = db.prepare(`SELECT id, ${kept ? 'width' : '1 AS width'} FROM signal`).all();
  return new Map((rows as { id: number; width: Width }[]).map(({ id, width }) => [id, width]));
}

export function createTakeFile(path: string): Sqlite.Database {
  const db = new Sqlite(path);
  db.pragma('page_size = 16384');
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  db.pragma(`application_id = ${TAKE_APPLICATION_ID}`);
  db.pragma(`user_version = ${TAKE_VERSION}`);
  db.exec(SCHEMA);
  return db;
}
