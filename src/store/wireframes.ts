import { eq, sql } from 'drizzle-orm';
import { notFound } from '$core/errors';
import { FrameBody, type NamedFrame } from '$contract/wireframe';
import type { Db } from './database';
import * as t from './modal-tables';

const read = ({ id, name, body }: typeof t.wireframes.$inferSelect): NamedFrame => ({
  ...FrameBody.parse({ ...(body as object), name }),
  id,
});

export const listWireframes = (db: Db, jobId: string): NamedFrame[] =>
  db
    .select()
    .from(t.wireframes)
    .where(eq(t.wireframes.jobId, jobId))
    .orderBy(sql`rowid`)
    .all()
    .map(read);

/** @throws `not_found` */
export function getWireframe(db: Db, id: string): NamedFrame {
  const row = db.select().from(t.wireframes).where(eq(t.wireframes.id, id)).get();
  if (!row) throw notFound('wireframe', id);
  return read(row);
}

export function putWireframe(db: Db, jobId: string, { id, name, ...body }: NamedFrame): void {
  const set = { name, body };
  db.insert(t.wireframes)
    .values({ id, jobId, ...set })
    .onConflictDoUpdate({ target: t.wireframes.id, set })
    .run();
}

export const deleteWireframe = (db: Db, id: string): void =>
  void db.delete(t.wireframes).where(eq(t.wireframes.id, id)).run();
