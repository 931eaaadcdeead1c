import { and, desc, eq, isNull, or, sql } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type AlarmRow = typeof t.alarms.$inferSelect;
export type ShelfRow = typeof t.shelves.$inferSelect;

export const insertAlarm = (
  db: Db,
  row: Pick<AlarmRow, 'jobId' | 'source' | 'level' | 'says' | 'at' | 'outAt'>,
): AlarmRow => db.insert(t.alarms).values(row).returning().get();
export const updateAlarm = (db: Db, id: number, set: Partial<AlarmRow>): void =>
  void db.update(t.alarms).set(set).where(eq(t.alarms.id, id)).run();

/** Alarms that still hold or that nobody has acknowledged, newest first. */
export const openAlarms = (db: Db, jobId: string): AlarmRow[] =>
  db
    .select()
    .from(t.alarms)
    .where(and(eq(t.alarms.jobId, jobId), or(isNull(t.alarms.outAt), isNull(t.alarms.takenAt))))
    .orderBy(desc(t.alarms.id))
    .limit(500)
    .all();
/** All alarms of a job, newest first. */
export const listAlarms = (db: Db, jobId: string, limit: number): AlarmRow[] =>
  db.select().from(t.alarms).where(eq(t.alarms.jobId, jobId)).orderBy(desc(t.alarms.id)).limit(limit).all();
/** Whatever held when the program stopped no longer does. */
export const closeAlarms = (db: Db, at: number): void =>
  void db.update(t.alarms).set({ outAt: at }).where(isNull(t.alarms.outAt)).run();

export const listShelves = (db: Db, nowMs: number): ShelfRow[] =>
  db
    .select()
    .from(t.shelves)
    .where(sql`${t.shelves.until} > ${nowMs}`)
    .all();
export const putShelf = (db: Db, row: ShelfRow): void =>
  void db.insert(t.shelves).values(row).onConflictDoUpdate({ target: t.shelves.source, set: row }).run();
export const dropShelf = (db: Db, source: string): void =>
  void db.delete(t.shelves).where(eq(t.shelves.source, source)).run();
