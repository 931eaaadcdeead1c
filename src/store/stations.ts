import { and, desc, eq, max } from 'drizzle-orm';
import type { LiveValues, StationState } from '$core/field/station/state';
import type { StationWish } from '$contract/station';
import type { Db } from './database';
import * as t from './tables';

/** What is fetched of a table of the programme that runs. */
export interface KeptTable {
  /** One after the last row that is fetched. */
  fetched: number;
  takeId: string | null;
}
/** What is kept of a station. */
export interface KeptStation {
  wish: StationWish;
  /** Of the instrument; known from the first time on that it was reached. */
  serial: string | null;
  state: StationState | null;
  /** Values of the last time that it was asked for them. */
  live: LiveValues | null;
  /** When it answered last, ms since 1970, and by how much its clock was ahead then, s. */
  contactAt: number | null;
  aheadS: number;
  /** The programme that runs on it. */
  runs: string;
  /** The programme as it is being written. */
  draft: string;
  /** Of the run that the tables are of. */
  run: number;
  tables: Record<string, KeptTable>;
  /** Takes of programmes that ran before, the last one first. */
  earlier: { table: string; takeId: string; run: number }[];
  /** When it was asked last by its schedule, ms. */
  askedAt: number | null;
}
export interface StationRow extends KeptStation {
  id: string;
}

const rowOf = ({ id, body }: typeof t.stations.$inferSelect): StationRow => ({
  id,
  ...(body as KeptStation),
});

export const listStations = (db: Db): StationRow[] => db.select().from(t.stations).all().map(rowOf);
export const findStation = (db: Db, id: string): StationRow | null => {
  const row = db.select().from(t.stations).where(eq(t.stations.id, id)).get();
  return row ? rowOf(row) : null;
};
export const putStation = (db: Db, { id, ...body }: StationRow): void =>
  void db
    .insert(t.stations)
    .values({ id, body })
    .onConflictDoUpdate({ target: t.stations.id, set: { body } })
    .run();
/** Its programmes stay. */
export const dropStation = (db: Db, id: string): void =>
  void db.delete(t.stations).where(eq(t.stations.id, id)).run();

export type ProgrammeRow = typeof t.programmes.$inferSelect;
/** Programmes of a station, the newest first. */
export const listProgrammes = (db: Db, station: string): ProgrammeRow[] =>
  db
    .select()
    .from(t.programmes)
    .where(eq(t.programmes.station, station))
    .orderBy(desc(t.programmes.number))
    .all();
/** Keeps a programme as a version of its own, unless the newest one is the same. */
export function keepProgramme(db: Db, station: string, text: string, by: string, at: number): ProgrammeRow {
  const [newest] = listProgrammes(db, station);
  if (newest?.text === text) return newest;
  const last = db.select({ last: max(t.programmes.number) }).from(t.programmes).where(eq(t.programmes.station, station)).get()!.last ?? 0; // prettier-ignore
  return db
    .insert(t.programmes)
    .values({ station, number: last + 1, at, by, text })
    .returning()
    .get();
}
/** The version that a text is: the newest one that says it, else a new one. */
export const versionOf = (db: Db, station: string, text: string, by: string, at: number): ProgrammeRow =>
  listProgrammes(db, station).find((p) => p.text === text) ?? keepProgramme(db, station, text, by, at);
export const programmeRan = (db: Db, station: string, number: number, at: number): void =>
  void db
    .update(t.programmes)
    .set({ ranAt: at })
    .where(and(eq(t.programmes.station, station), eq(t.programmes.number, number)))
    .run();
