import { notFound } from '$core/errors';
import { Board } from '$contract/board';
import { eq, sql } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

const read = (row: typeof t.boards.$inferSelect): Board => {
  const { views = [], ...body } = row.body as { views?: Record<string, unknown>[] };
  return Board.parse({ ...body, id: row.id, name: row.name, views: views.map(asWritten) });
};
/** Earlier versions gave every view a level of 0; only bursts had one. */
const asWritten = (view: Record<string, unknown>) =>
  view.own === undefined && view.kind !== 'burst' ? { ...view, level: null } : view;

export const listBoards = (db: Db, jobId: string): Board[] =>
  db
    .select()
    .from(t.boards)
    .where(eq(t.boards.jobId, jobId))
    .orderBy(sql`rowid`)
    .all()
    .map(read);
/** @throws `not_found` */
export function getBoard(db: Db, id: string): Board {
  const row = db.select().from(t.boards).where(eq(t.boards.id, id)).get();
  if (!row) throw notFound('board', id);
  return read(row);
}
export function putBoard(db: Db, jobId: string, { id, name, ...body }: Board): void {
  const set = { name, body };
  db.insert(t.boards)
    .values({ id, jobId, ...set })
    .onConflictDoUpdate({ target: t.boards.id, set })
    .run();
}
export const deleteBoard = (db: Db, id: string): void =>
  void db.delete(t.boards).where(eq(t.boards.id, id)).run();
