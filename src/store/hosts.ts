import { eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

/** Hosts that rules may call, in their order. */
export const listHosts = (db: Db): string[] =>
  db
    .select()
    .from(t.hosts)
    .orderBy(t.hosts.host)
    .all()
    .map((row) => row.host);
export const putHost = (db: Db, host: string, by: string): void =>
  void db.insert(t.hosts).values({ host, by, at: Date.now() }).onConflictDoNothing().run();
export const dropHost = (db: Db, host: string): void =>
  void db.delete(t.hosts).where(eq(t.hosts.host, host)).run();
