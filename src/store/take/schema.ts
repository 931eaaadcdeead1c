import type { SampledHead } from '$core/samples/sampled';
import Sqlite from 'better-sqlite3';

/** “FARR”, so that any tool can tell a take from another SQLite file. */
export const TAKE_APPLICATION_ID = 0x46415252;
export const TAKE_VERSION = 4;

/** The tables of a take file; docs/formats.md explains every column. */
const SCHEMA = `
CREATE TABLE take (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE rate_group (id INTEGER PRIMARY KEY, offset_ns INTEGER NOT NULL, rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, length INTEGER NOT NULL);
CREATE TABLE signal (id INTEGER PRIMARY KEY, channel_id TEXT, name TEXT NOT NULL, raw_unit TEXT NOT NULL, group_id INTEGER NOT NULL REFERENCES rate_group(id),
  junction INTEGER REFERENCES signal(id), snapshot TEXT, width INTEGER NOT NULL DEFAULT 1);
CREATE TABLE conversion (signal INTEGER NOT NULL REFERENCES signal(id), revision INTEGER NOT NULL, at INTEGER NOT NULL, by TEXT NOT NULL, reason TEXT NOT NULL,
  unit TEXT NOT NULL, body TEXT NOT NULL, source INTEGER REFERENCES signal(id), snapshot TEXT, PRIMARY KEY (signal, revision)) WITHOUT ROWID;
CREATE TABLE block (signal INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (signal, first));
CREATE TABLE envelope (signal INTEGER NOT NULL, level INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (signal, level, first));
CREATE TABLE gap (group_id INTEGER NOT NULL, first INTEGER NOT NULL, count INTEGER NOT NULL, reason TEXT NOT NULL);
CREATE TABLE proof (signal INTEGER NOT NULL REFERENCES signal(id), moment TEXT NOT NULL, step TEXT NOT NULL, offset_ns INTEGER NOT NULL,
  rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL);
CREATE TABLE timing (unit TEXT PRIMARY KEY, name TEXT NOT NULL, offset_ms REAL NOT NULL, drift_ppm REAL NOT NULL, drift_u_ppm REAL NOT NULL, blocks INTEGER NOT NULL) WITHOUT ROWID;
CREATE TABLE seal (body TEXT NOT NULL);
CREATE TABLE note (id INTEGER PRIMARY KEY, offset_ns INTEGER NOT NULL, kind TEXT NOT NULL, says TEXT NOT NULL, by TEXT NOT NULL);
`;

/** What version 2 added: proofs, and what a later conversion was made with. */
export const TO_VERSION_2 = `
ALTER TABLE conversion ADD COLUMN source INTEGER REFERENCES signal(id);
ALTER TABLE conversion ADD COLUMN snapshot TEXT;
CREATE TABLE proof (signal INTEGER NOT NULL REFERENCES signal(id), moment TEXT NOT NULL, step TEXT NOT NULL, offset_ns INTEGER NOT NULL,
  rate_num INTEGER NOT NULL, rate_den INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL);
`;

/** What version 3 added: the clocks of the units, and the seal. */
export const TO_VERSION_3 = `
CREATE TABLE timing (unit TEXT PRIMARY KEY, name TEXT NOT NULL, offset_ms REAL NOT NULL, drift_ppm REAL NOT NULL, drift_u_ppm REAL NOT NULL, blocks INTEGER NOT NULL) WITHOUT ROWID;
CREATE TABLE seal (body TEXT NOT NULL);
`;

/** What version 4 added: complex samples. */
export const TO_VERSION_4 = `
ALTER TABLE signal ADD COLUMN width INTEGER NOT NULL DEFAULT 1;
`;

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
