import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import Sqlite from 'better-sqlite3';
import { damaged } from '$core/errors';
import { sql } from 'drizzle-orm';
import { drizzle, type BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import journal from '../../drizzle/meta/_journal.json';
import * as tables from './tables';

export type Db = BetterSQLite3Database<typeof tables> & { $client: Sqlite.Database };

const migrations = import.meta.glob('/drizzle/*.sql', {
  query: '?raw',
  import: 'default',
  eager: true,
}) as Record<string, string>;

/** Opens (or makes) the job database and brings its tables up to date. @param path file, or ':memory:' */
export function openDatabase(path: string): Db {
  if (path !== ':memory:') mkdirSync(dirname(path), { recursive: true });
  try {
    const client = new Sqlite(path);
    client.pragma('page_size = 16384');
    client.pragma('journal_mode = WAL');
    client.pragma('synchronous = NORMAL');
    client.pragma('busy_timeout = 5000');
    client.pragma('foreign_keys = ON');
    const db = drizzle({ client, schema: tables }) as Db;
    migrate(db);
    return db;
  } catch (error) {
    if (!isDamage(error)) throw error;
    throw damaged(
      path,
      'The job database cannot be read.',
      `Run “npm run restore -- ${dirname(path)}”: it puts the newest good copy in its place and keeps the damaged file. Takes are not touched. (${(error as Error).message})`,
    );
  }
}

/** Whether SQLite says that a file is no database, or not a whole one. */
const isDamage = (error: unknown): boolean => {
  const { code, cause, message = '' } = (error ?? {}) as { code?: string; cause?: unknown; message?: string };
  return (
    /^SQLITE_(CORRUPT|NOTADB)/.test(code ?? '') ||
    /malformed|not a database/.test(message) ||
    (cause !== undefined && isDamage(cause))
  );
};

/** Applies the migrations that are bundled with the program, so it does not matter where it is started. */
function migrate(db: Db): void {
  const steps = journal.entries.map((entry) => {
    const text = migrations[`/drizzle/${entry.tag}.sql`];
    return {
      sql: text.split('--> statement-breakpoint'),
      bps: entry.breakpoints,
      folderMillis: entry.when,
      hash: createHash('sha256').update(text).digest('hex'),
    };
  });
  // The migrator's own call; its types are not published.
  (
    db as unknown as {
      dialect: { migrate(steps: unknown, session: unknown, config: object): void };
      session: unknown;
    }
  ).dialect.migrate(steps, (db as unknown as { session: unknown }).session, {});
  db.run(sql`PRAGMA optimize`);
}
