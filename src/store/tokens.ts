import { notFound } from '$core/errors';
import { asc, eq } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type TokenRow = typeof t.tokens.$inferSelect;

export const listTokens = (db: Db): TokenRow[] =>
  db.select().from(t.tokens).orderBy(asc(t.tokens.createdAt)).all();
export const tokenByHash = (db: Db, hash: string): TokenRow | undefined =>
  db.select().from(t.tokens).where(eq(t.tokens.hash, hash)).get();
export const insertToken = (db: Db, row: TokenRow): void => void db.insert(t.tokens).values(row).run();
export const tokenUsed = (db: Db, id: string, at: number): void =>
  void db.update(t.tokens).set({ usedAt: at }).where(eq(t.tokens.id, id)).run();

/** @returns its name @throws `not_found` */
export function deleteToken(db: Db, id: string): string {
  const row = db.select().from(t.tokens).where(eq(t.tokens.id, id)).get();
  if (!row) throw notFound('token', id);
  db.delete(t.tokens).where(eq(t.tokens.id, id)).run();
  return row.name;
}
