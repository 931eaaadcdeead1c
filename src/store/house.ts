import { eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

/** Something that holds for the whole house, by what it is; null where nothing was said. */
export const getHouse = (db: Db, key: string): unknown =>
  db.select().from(t.house).where(eq(t.house.key, key)).get()?.body ?? null;
export const putHouse = (db: Db, key: string, body: unknown): void =>
  void db
    .insert(t.house)
    .values({ key, body })
    .onConflictDoUpdate({ target: t.house.key, set: { body } })
    .run();
